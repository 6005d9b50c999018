/** Coming in and going, people, tablets, the journal: what is asked, and what is done. */
import { infiniteQueryOptions, queryOptions, useMutation } from "@tanstack/react-query";
import { got, shopApi, type Here } from "../../api/client";
import type { components } from "../../api/schema";
import { hereQuery, keepHere } from "../../lib/here";
import { outbox, queries } from "../../lib/store";

export type SignIn = components["schemas"]["SignInIn"];
export type First = components["schemas"]["FirstIn"];
export type Code = components["schemas"]["CodeView"];
export type Change = components["schemas"]["ChangeView"];
export type PersonChange = components["schemas"]["PersonChangeIn"];
export const ROLES = ["reader", "technician", "lead", "owner"] as const;

/** Whether somebody may do what that role may; where nobody signs in everybody may. */
export function mayDo(here: Here | undefined, role: (typeof ROLES)[number]): boolean {
  if (!here?.network) return true;
  return ROLES.indexOf((here.person?.role ?? "reader") as "reader") >= ROLES.indexOf(role);
}

/** What the service worker keeps of the server's answers (`sw.ts`). */
const SAID = "plumb-said";

/** Somebody else is here: what the last one saw is not theirs, and what waits of them goes up. */
function cameIn(here: Here): void {
  queries.removeQueries({ predicate: (q) => q.queryKey[0] !== hereQuery.queryKey[0] });
  queries.setQueryData(hereQuery.queryKey, keepHere(here));
  if ("caches" in window) void caches.delete(SAID);
  outbox.wake();
}

export function useSignIn() {
  return useMutation({
    mutationFn: (wanted: Partial<SignIn>) =>
      got(
        shopApi.POST("/api/sign-in", {
          body: { name: "", password: "", person_id: 0, pin: "", ...wanted },
        }),
      ),
    onSuccess: cameIn,
  });
}

export function useFirstTime() {
  return useMutation({
    mutationFn: (wanted: First) => got(shopApi.POST("/api/sign-in/first", { body: wanted })),
    onSuccess: cameIn,
  });
}

export function useClaim() {
  return useMutation({
    mutationFn: (wanted: { code: string; name: string }) =>
      got(shopApi.POST("/api/pairing/claim", { body: wanted })),
    onSuccess: cameIn,
  });
}

/** Go: the names again. */
export async function signOut(): Promise<void> {
  await got(shopApi.POST("/api/sign-out"));
  cameIn(await got(shopApi.GET("/api/here")));
}

const lists = {
  people: queryOptions({ queryKey: ["people"], queryFn: () => got(shopApi.GET("/api/people")) }),
  devices: queryOptions({ queryKey: ["devices"], queryFn: () => got(shopApi.GET("/api/devices")) }),
  signIns: queryOptions({
    queryKey: ["sign-ins"],
    queryFn: () => got(shopApi.GET("/api/sign-ins")),
  }),
};
export const { people: peopleQuery, devices: devicesQuery, signIns: signInsQuery } = lists;

const renew = () => {
  for (const { queryKey } of Object.values(lists)) void queries.invalidateQueries({ queryKey });
};

export function useAddPerson() {
  return useMutation({
    mutationFn: (body: components["schemas"]["PersonIn"]) =>
      got(shopApi.POST("/api/people", { body })),
    onSuccess: renew,
  });
}

export function useChangePerson() {
  return useMutation({
    mutationFn: ({ id, ...body }: PersonChange & { id: number }) =>
      got(shopApi.PATCH("/api/people/{person_id}", { params: { path: { person_id: id } }, body })),
    onSuccess: renew,
  });
}

export function useNewCode() {
  return useMutation({
    mutationFn: (id: number) =>
      got(shopApi.POST("/api/people/{person_id}/code", { params: { path: { person_id: id } } })),
    onSuccess: renew,
  });
}

export function usePairing() {
  return useMutation({ mutationFn: () => got(shopApi.POST("/api/pairing")) });
}

export function useEndDevice() {
  return useMutation({
    mutationFn: (id: number) =>
      got(shopApi.DELETE("/api/devices/{device_id}", { params: { path: { device_id: id } } })),
    onSuccess: renew,
  });
}

export function useEndSignIn() {
  return useMutation({
    mutationFn: (id: number) =>
      got(shopApi.DELETE("/api/sign-ins/{sign_in_id}", { params: { path: { sign_in_id: id } } })),
    onSuccess: renew,
  });
}

export function useChangeOwn() {
  return useMutation({
    mutationFn: (body: { current: string; password: string; pin: string }) =>
      got(shopApi.PUT("/api/me", { body })),
  });
}

export interface Wanted {
  job: string;
  by: string;
  what: string;
  find: string;
}

/** Pages of the journal, the newest change first. */
export function journalQuery(wanted: Wanted) {
  return infiniteQueryOptions({
    queryKey: ["journal", wanted],
    queryFn: ({ pageParam }) => {
      const { by, ...rest } = wanted;
      const query = {
        ...rest,
        ...(by === "" ? {} : { by: by === WORKSHOP ? "" : by }),
        ...(pageParam === null ? {} : { before: pageParam }),
      };
      return got(shopApi.GET("/api/journal", { params: { query } }));
    },
    initialPageParam: null as number | null,
    getNextPageParam: (last) => (last.more ? (last.changes.at(-1)?.id ?? null) : null),
    placeholderData: (old) => old,
  });
}

/** What was done where nobody signs in. */
export const WORKSHOP = "this workshop";

export function useCheck() {
  return useMutation({ mutationFn: () => got(shopApi.GET("/api/journal/check")) });
}
