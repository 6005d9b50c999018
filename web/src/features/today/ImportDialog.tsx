/** Bring in a job file: preview first, then all of it or nothing. */
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import api, { got } from "../../api/client";
import { catalogueQuery } from "../../lib/store";
import { Dialog } from "../../ui/parts";
import FileIntake from "../../ui/FileIntake";

interface Props {
  open: boolean;
  onOpenChange: (open: boolean) => void;
}

/** A whole job with its photos and traces. */
function postWhole(file: File, preview: boolean) {
  return got(
    api.POST("/api/job-archives", {
      params: { query: { preview } },
      body: file as unknown as string,
      bodySerializer: (body: unknown) => body as Blob,
      headers: { "Content-Type": "application/octet-stream" },
    }),
  );
}

function post(text: string, preview: boolean) {
  return got(
    api.POST("/api/job-files", {
      params: { query: { preview } },
      body: text as unknown as Record<string, never>,
      bodySerializer: (body: unknown) => body as string,
      headers: { "Content-Type": "application/json" },
    }),
  );
}

export function ImportDialog({ open, onOpenChange }: Props) {
  const navigate = useNavigate();
  const largest = useQuery(catalogueQuery).data?.largest;
  return (
    <Dialog title="Bring in a job file" open={open} onOpenChange={onOpenChange} wide>
      <FileIntake
        accept=".json,.zip,.pdf,application/json,application/zip,application/pdf"
        most={largest?.job_file}
        mostWhole={largest?.trace}
        hint="A *.plumb.json file, a *.plumb.zip with photos and traces, or a report as PDF. You see what it holds before anything is kept."
        send={post}
        sendWhole={postWhole}
        done={(view) => {
          onOpenChange(false);
          void navigate(`/jobs/${encodeURIComponent(view.job_number)}`);
        }}
      />
    </Dialog>
  );
}
