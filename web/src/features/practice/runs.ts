/** The runs of practice: they are asked for at the shop's address, their jobs at that of practice. */
import { queryOptions, useMutation, useQuery } from "@tanstack/react-query";
import { got, shopApi as shop, type ActIn, type RunView } from "../../api/client";
import type { components } from "../../api/schema";
import { queries } from "../../lib/store";

const LOOKS_MS = 1000;

export type Answer = components["schemas"]["HandedIn"];
/** What a person does; what is left out is as it usually is. */
export type Act = Pick<ActIn, "what"> & Partial<ActIn>;

export const practiceQuery = queryOptions({
  queryKey: ["practice"],
  queryFn: () => got(shop.GET("/api/practice")),
});

const keyOf = (number: string) => ["run", number];

function keep(run: RunView): void {
  queries.setQueryData(keyOf(run.number), run);
  void queries.invalidateQueries({ queryKey: ["practice"] });
}

/** A run as it stands; while it goes on it is looked at every second. */
export function useRun(number: string) {
  return useQuery({
    queryKey: keyOf(number),
    queryFn: () =>
      got(
        shop.GET("/api/practice/runs/{run_number}", { params: { path: { run_number: number } } }),
      ),
    refetchInterval: ({ state }) => (state.data?.ended ? false : LOOKS_MS),
  });
}

export function useAct(number: string) {
  const params = { path: { run_number: number } };
  return useMutation({
    mutationFn: (act: Act) =>
      got(
        shop.POST("/api/practice/runs/{run_number}/acts", {
          params,
          body: { sheet: "", rows: [], name: "", on: true, seconds: 0, ...act },
        }),
      ),
    onSuccess: keep,
  });
}

export function useHint(number: string) {
  const params = { path: { run_number: number } };
  return useMutation({
    mutationFn: () => got(shop.POST("/api/practice/runs/{run_number}/hints", { params })),
    onSuccess: keep,
  });
}

export function useHandIn(number: string) {
  const params = { path: { run_number: number } };
  return useMutation({
    mutationFn: (body: Answer) =>
      got(shop.POST("/api/practice/runs/{run_number}/answer", { params, body })),
    onSuccess: keep,
  });
}

interface Begin {
  exercise: string;
  by: string;
  exam: boolean;
}

export function useBeginRun() {
  return useMutation({
    mutationFn: (wanted: Begin) =>
      got(
        shop.POST("/api/practice/runs", { body: { ...wanted, request_id: crypto.randomUUID() } }),
      ),
    onSuccess: keep,
  });
}

export const resultOf = (number: string) =>
  `/api/practice/runs/${encodeURIComponent(number)}/result.pdf`;
