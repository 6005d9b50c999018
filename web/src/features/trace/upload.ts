/** A trace on its way to the server: how far it is, and a way to stop it. */
import { Away, refused, type TraceView } from "../../api/client";
import { BASE } from "../../lib/base";

export interface Upload {
  done: Promise<TraceView>;
  stop: () => void;
}

/** Nothing is stored before the whole file has arrived, so stopping leaves nothing behind. */
export function upload(
  sheetId: number,
  file: File,
  told: Record<string, string>,
  onShare: (share: number) => void,
): Upload {
  const request = new XMLHttpRequest();
  const query = new URLSearchParams({ request_id: crypto.randomUUID(), name: file.name, ...told });
  const done = new Promise<TraceView>((resolve, reject) => {
    request.open("POST", `${BASE}/api/sheets/${sheetId}/trace?${query.toString()}`);
    request.setRequestHeader("Content-Type", "text/csv");
    request.upload.onprogress = (e) => onShare(e.lengthComputable ? e.loaded / e.total : 0);
    request.onload = () => {
      let body: unknown = null;
      try {
        body = JSON.parse(request.responseText);
      } catch {
        // No JSON: the status says enough.
      }
      if (request.status === 200) resolve(body as TraceView);
      else reject(refused(request.status, body));
    };
    request.onerror = () => reject(new Away("The server does not answer."));
    request.onabort = () => reject(new Stopped());
    request.send(file);
  });
  return { done, stop: () => request.abort() };
}

/** Someone stopped it. */
export class Stopped extends Error {
  constructor() {
    super("Stopped. Nothing was stored.");
  }
}
