/** A simulation that goes on by itself on the server, and is looked at a few times a second. */
import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import api, { got, type SetupView, type WorthView } from "../../api/client";

const LOOK_MS = 400;

export type Setup = SetupView;

function bodyOf(setup: Setup) {
  const { step, first, second, scatter, size, tolerance_percent, passes, ideal, rule } = setup;
  const unit = setup.unit as "psi";
  return {
    unit,
    step,
    first,
    second,
    scatter,
    size,
    tolerance_percent,
    passes,
    ideal,
    rule,
    sets: 600,
  };
}

export function useSetup(sheet: number) {
  return useQuery({
    queryKey: ["rules", "setup", sheet],
    queryFn: () => got(api.GET("/api/rules/worth/setup", { params: { query: { sheet } } })),
    staleTime: Infinity,
  });
}

/** Begin anew a moment after the last slider came to rest; the newest picture stays meanwhile. */
export function useWorth(setup: Setup | null) {
  const [run, setRun] = useState<WorthView | null>(null);
  const begin = useMutation({
    mutationFn: (wanted: Setup) => got(api.POST("/api/rules/worth", { body: bodyOf(wanted) })),
    onSuccess: setRun,
  });
  const { mutateAsync } = begin;
  const newest = useRef<Promise<WorthView | null>>(Promise.resolve(null));
  const soon = useRef<ReturnType<typeof setTimeout>>(undefined);
  const asked = JSON.stringify(setup);
  useEffect(() => {
    if (asked === "null") return;
    soon.current = setTimeout(() => {
      newest.current = mutateAsync(JSON.parse(asked) as Setup).catch(() => null);
    }, 150);
    return () => clearTimeout(soon.current);
  }, [asked, mutateAsync]);
  const looked = useQuery({
    queryKey: ["rules", "worth", run?.id],
    queryFn: () =>
      got(api.GET("/api/rules/worth/{run_id}", { params: { path: { run_id: run?.id ?? "" } } })),
    enabled: run !== null,
    refetchInterval: (query) => (query.state.data?.running === false ? false : LOOK_MS),
    ...(run ? { initialData: run } : {}),
  });
  const stop = useMutation({
    // The one that was asked for last, though its answer may still be on the way.
    mutationFn: async () => {
      clearTimeout(soon.current);
      const run_id = (await newest.current)?.id ?? run?.id ?? "";
      return got(api.DELETE("/api/rules/worth/{run_id}", { params: { path: { run_id } } }));
    },
    onSuccess: () => void looked.refetch(),
  });
  return { worth: looked.data ?? run, begin, stop };
}

export function usePlan(setup: Setup, off: number, certainty: number) {
  return useQuery({
    queryKey: ["rules", "plan", setup, off, certainty],
    queryFn: () =>
      got(
        api.POST("/api/rules/plan", {
          body: {
            ...bodyOf(setup),
            off_percent: off,
            certainty_percent: certainty,
          },
        }),
      ),
    placeholderData: (old) => old,
    retry: false,
  });
}
