/** What is said beside the work: the colour of a tone, an advice, the cautions. */
export const TONE: Record<string, string> = {
  low: "text-low",
  high: "text-high",
  open: "text-open",
  "": "",
};

interface AdviceProps {
  title: string;
  text: string;
  edge: string;
}

export function Advice({ title, text, edge }: AdviceProps) {
  return (
    <div className={`mb-3 border-l-4 pl-3 ${edge}`}>
      <p className="font-bold leading-snug">{title}</p>
      <p className="text-sm leading-snug text-soft">{text}</p>
    </div>
  );
}

/** The usual cautions, where the work is. */
export function Care({ text }: { text: string }) {
  return (
    <aside
      className="mb-4 rounded-lg bg-slab p-3 text-sm leading-snug text-slabink"
      aria-label="Care"
    >
      <b>Care.</b> {text}
    </aside>
  );
}
