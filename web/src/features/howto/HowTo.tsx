/** How a sheet's work is done: the card for who does it for the first time, or after a year. */
import { useQuery } from "@tanstack/react-query";
import api, { got, told, type SheetView } from "../../api/client";
import type { components } from "../../api/schema";
import { Dialog, Trouble } from "../../ui/parts";
import { Care } from "../../ui/said";
import { Drawing } from "./Drawing";

type Guide = components["schemas"]["GuideView"];

export default function HowTo({ sheet, close }: { sheet: SheetView; close: () => void }) {
  const guide = useQuery({
    queryKey: ["guide", sheet.kind, sheet.fuel_system, sheet.starts],
    queryFn: () =>
      got(
        api.GET("/api/kinds/{kind}/guide", {
          params: {
            path: { kind: sheet.kind },
            query: { fuel_system: sheet.fuel_system as "port", starts: sheet.starts },
          },
        }),
      ),
    staleTime: Infinity,
  });
  return (
    <Dialog wide title={`${sheet.title}: how it is done`} open onOpenChange={close}>
      <Trouble text={guide.isError ? told(guide.error) : null} />
      {guide.data && <Card guide={guide.data} />}
    </Dialog>
  );
}

function Card({ guide }: { guide: Guide }) {
  return (
    <div className="grid gap-x-6 gap-y-3 md:grid-cols-2">
      <Said title="What it shows" text={guide.shows} />
      <Said title="What it does not show" text={guide.hides} />
      <List title="What you need" of={guide.needs} />
      <List title="How to connect" of={guide.connect} />
      <List title="Step by step" of={guide.steps} numbered />
      <List title="What to look at" of={guide.look} />
      <List title="The usual slips" of={guide.slips} />
      <div>
        <Said title="Good enough when" text={guide.enough} />
        <Said title="How others do it" text={guide.schools} />
      </div>
      {guide.drawings.map((d) => (
        <Drawing key={d.code} code={d.code} words={d.words} />
      ))}
      <div className="md:col-span-2">
        <Care text={guide.care} />
      </div>
    </div>
  );
}

function Said({ title, text }: { title: string; text: string }) {
  if (!text) return null;
  return (
    <section className="mb-2">
      <h3 className="font-bold">{title}</h3>
      <p>{text}</p>
    </section>
  );
}

interface ListProps {
  title: string;
  of: string[];
  numbered?: boolean;
}

function List({ title, of, numbered = false }: ListProps) {
  if (of.length === 0) return null;
  const Of = numbered ? "ol" : "ul";
  return (
    <section>
      <h3 className="font-bold">{title}</h3>
      <Of className={`pl-5 ${numbered ? "list-decimal" : "list-disc"}`}>
        {of.map((text) => (
          <li key={text}>{text}</li>
        ))}
      </Of>
    </section>
  );
}
