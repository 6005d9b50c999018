/** Where people sign in, nothing opens before one of them has; without a network nobody is asked. */
import { useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, type ReactNode } from "react";
import { useLocation } from "react-router";
import { SIGNED_OUT } from "../api/client";
import { hereQuery, useHere } from "../lib/here";
import { Opening } from "./parts";

const Door = lazy(() => import("../features/people/Door"));
const PairPage = lazy(() => import("../features/people/PairPage"));

export function Gate({ children }: { children: ReactNode }) {
  const here = useHere();
  const client = useQueryClient();
  const { pathname } = useLocation();
  useEffect(() => {
    const ask = () => void client.invalidateQueries({ queryKey: hereQuery.queryKey });
    window.addEventListener(SIGNED_OUT, ask);
    return () => window.removeEventListener(SIGNED_OUT, ask);
  }, [client]);
  const pairs = pathname === "/pair";
  if (!pairs && !(here?.network && !here.person)) return children;
  return (
    <Suspense fallback={<Opening />}>
      {pairs || !here ? <PairPage /> : <Door here={here} />}
    </Suspense>
  );
}
