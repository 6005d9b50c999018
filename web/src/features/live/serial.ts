/** The browser's own serial port, where there is one: figures are read from it and sent on. */

interface Port {
  open(options: { baudRate: number }): Promise<void>;
  close(): Promise<void>;
  readable: ReadableStream<Uint8Array> | null;
}

interface Serial {
  requestPort(): Promise<Port>;
}

export const RATES = [9600, 19_200, 38_400, 115_200] as const;

function serial(): Serial | undefined {
  return (navigator as { serial?: Serial }).serial;
}

export function hasSerial(): boolean {
  return serial() !== undefined;
}

/** The figures of lines; what is no figure is left out. */
export function figuresOf(lines: string[]): number[] {
  return lines
    .map((line) => /[+-]?\d+(?:[.,]\d+)?(?:e[+-]?\d+)?/i.exec(line)?.[0].replace(",", "."))
    .filter((text) => text !== undefined)
    .map(Number);
}

/** Let a person choose a port, then send its figures until stopped; gives how to stop. */
export async function readSerial(
  baudRate: number,
  send: (values: number[]) => void,
): Promise<() => void> {
  const port = await serial()?.requestPort();
  if (!port) throw new Error("This browser has no serial port.");
  await port.open({ baudRate });
  const reader = port.readable?.getReader();
  let rest = "";
  const text = new TextDecoder();
  const pump = async () => {
    for (;;) {
      const piece = await reader?.read();
      if (!piece || piece.done) break;
      const lines = (rest + text.decode(piece.value, { stream: true })).split(/[\r\n]+/);
      rest = lines.pop() ?? "";
      const values = figuresOf(lines);
      if (values.length > 0) send(values);
    }
    reader?.releaseLock();
    await port.close();
  };
  void pump();
  return () => void reader?.cancel();
}
