/** Keys, and what each does. */
import { Kbd } from "./parts";

export function KeyTable({ keys }: { keys: [key: string, what: string][] }) {
  return (
    <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-2">
      {keys.map(([key, what]) => (
        <div key={key} className="contents">
          <dt>
            <Kbd>{key}</Kbd>
          </dt>
          <dd>{what}</dd>
        </div>
      ))}
    </dl>
  );
}
