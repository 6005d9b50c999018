/** A capture as a screen has it: how it stands, its stream, and what can be said to it. */
import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import api, { got, type CaptureView, type SheetView } from "../../api/client";
import { prefsNow } from "../../lib/prefs";
import { readSerial } from "./serial";
import { Trail } from "./Stream";
import { sound, wakeTones } from "./tones";

function offerQuery(sheet: SheetView) {
  return {
    queryKey: ["capture offer", sheet.id, sheet.gauge.name, sheet.gauge.unit],
    queryFn: () =>
      got(
        api.GET("/api/sheets/{sheet_id}/capture/offer", {
          params: { path: { sheet_id: sheet.id } },
        }),
      ),
    enabled: !sheet.closed,
  };
}

/** The newest state wins, whichever way it came. */
function useNewest() {
  const [capture, setCapture] = useState<CaptureView | null>(null);
  const heard = useRef({ sheet: 0, tone: 0 });
  const take = (next: CaptureView) => {
    setCapture((old) =>
      old?.sheet_id === next.sheet_id && old.running === next.running && old.number > next.number
        ? old
        : next,
    );
    const first = heard.current.sheet !== next.sheet_id;
    if (!first && next.tone > heard.current.tone) sound(next.sound);
    heard.current = { sheet: next.sheet_id, tone: next.tone };
  };
  return [capture, take] as const;
}

export function useCapture(sheet: SheetView, send: (values: number[]) => void) {
  const offer = useQuery(offerQuery(sheet)).data ?? null;
  const [capture, take] = useNewest();
  const [trail] = useState(() => new Trail());
  const stopSerial = useRef<() => void>(() => undefined);
  const path = { sheet_id: sheet.id };
  const start = useMutation({
    mutationFn: async ({ fires, baud }: { fires: boolean; baud: number }) => {
      wakeTones();
      if (offer?.pushed) stopSerial.current = await readSerial(baud, send);
      const body = { by: prefsNow().me.trim(), fires };
      return got(api.POST("/api/sheets/{sheet_id}/capture", { params: { path }, body }));
    },
    onSuccess: take,
  });
  const stop = useMutation({
    mutationFn: () => {
      stopSerial.current();
      return got(api.DELETE("/api/sheets/{sheet_id}/capture", { params: { path } }));
    },
    onSuccess: (ended) => ended && take(ended),
  });
  const say = useMutation({
    mutationFn: (said: { what: "kick" | "aim" | "accept"; row?: string }) =>
      got(
        api.POST("/api/sheets/{sheet_id}/capture/said", {
          params: { path },
          body: { row: "", ...said },
        }),
      ),
    onSuccess: take,
  });
  useEffect(() => () => stopSerial.current(), []);
  return { offer, capture, take, trail, start, stop, say };
}

export type Capture = ReturnType<typeof useCapture>;
