/** The line on which the server tells what happens: it is opened again by itself when it breaks. */
import { WebSocket as Steady } from "partysocket";
import { useEffect, useEffectEvent, useRef, useState } from "react";
import type { CaptureView, SheetView } from "../../api/client";
import { BASE } from "../../lib/base";
import { shownUnitQuery } from "../../lib/store";

export interface Samples {
  t: number[];
  v: number[];
}

type Message =
  | { type: "sheet"; sheet: SheetView }
  | { type: "job"; job: string }
  | { type: "capture"; capture: CaptureView }
  | ({ type: "samples"; sheet: number } & Samples);

export interface Heard {
  sheet: (sheet: SheetView) => void;
  job: () => void;
  capture: (capture: CaptureView) => void;
  samples: (samples: Samples) => void;
}

function address(job: string, sheet: number): string {
  const scheme = window.location.protocol === "https:" ? "wss" : "ws";
  const asked = new URLSearchParams({ job, sheet: String(sheet), ...shownUnitQuery() });
  return `${scheme}://${window.location.host}${BASE}/api/live?${asked}`;
}

/** Hear what happens to a job and its sheet; gives whether the line stands, and a way to send. */
export function useLine(job: string, sheet: number, heard: Heard) {
  const [open, setOpen] = useState(false);
  const socket = useRef<Steady | null>(null);
  const hear = useEffectEvent((message: Message) => {
    if (message.type === "sheet") heard.sheet(message.sheet);
    else if (message.type === "job") heard.job();
    else if (message.type === "capture") heard.capture(message.capture);
    else heard.samples(message);
  });
  const { unit = "" } = shownUnitQuery();
  useEffect(() => {
    const line = new Steady(address(job, sheet), [], {
      minReconnectionDelay: 300,
      maxReconnectionDelay: 3000,
    });
    socket.current = line;
    line.onopen = () => setOpen(true);
    line.onclose = () => setOpen(false);
    line.onmessage = (e: MessageEvent<string>) => hear(JSON.parse(e.data) as Message);
    return () => line.close();
  }, [job, sheet, unit]);
  const send = (values: number[]) => socket.current?.send(JSON.stringify({ values }));
  return { open, send };
}
