/** A job is closed where its repair is signed, and opened again from anywhere. */
import { useMutation } from "@tanstack/react-query";
import { Link } from "react-router";
import api, { got, told } from "../../api/client";
import { keepJob } from "../../lib/store";
import { BusyButton, Trouble } from "../../ui/parts";

interface Job {
  number: string;
  closed: boolean;
}

function useOpening(number: string) {
  return useMutation({
    mutationFn: () =>
      got(
        api.PATCH("/api/jobs/{number}", {
          params: { path: { number } },
          body: { closed: false },
        }),
      ),
    onSuccess: keepJob,
  });
}

export function Closing({ job }: { job: Job }) {
  const opening = useOpening(job.number);
  if (!job.closed) {
    return (
      <Link className="knob" to={`/jobs/${encodeURIComponent(job.number)}/repair?sign`}>
        Close the job
      </Link>
    );
  }
  return (
    <>
      <BusyButton className="knob" busy={opening.isPending} onClick={() => opening.mutate()}>
        Open the job again
      </BusyButton>
      <Trouble text={opening.isError ? told(opening.error) : null} />
    </>
  );
}
