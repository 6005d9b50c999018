/** The shop as its papers name it, and the currency of its prices. */
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import api, { got, told } from "../../api/client";
import { useToday } from "../../lib/clock";
import { queries } from "../../lib/store";
import { BusyButton, Text, Trouble } from "../../ui/parts";
import { BASE } from "../../lib/base";

interface Shop {
  name: string;
  address: string;
  currency: string;
}

const shopQuery = { queryKey: ["shop"], queryFn: () => got(api.GET("/api/shop")) };

export function ShopForm() {
  const shop = useQuery(shopQuery);
  if (!shop.data) return <Trouble text={shop.isError ? told(shop.error) : null} />;
  const { name, address, currency, logo } = shop.data;
  const key = `${name} ${address} ${currency}`;
  return <Form key={key} shop={{ name, address, currency }} there={logo} />;
}

function Form({ shop, there }: { shop: Shop; there: boolean }) {
  const [now, setNow] = useState(shop);
  const keep = useMutation({
    mutationFn: () => got(api.PUT("/api/shop", { body: now })),
    onSuccess: (made) => {
      queries.setQueryData(shopQuery.queryKey, made);
      void queries.invalidateQueries({ queryKey: ["job"] });
    },
  });
  const changed = JSON.stringify(now) !== JSON.stringify(shop);
  const put = (change: Partial<Shop>) => setNow({ ...now, ...change });
  return (
    <section aria-label="This shop" className="mb-6">
      <h2 className="mb-1 text-lg font-bold">This shop</h2>
      <form
        className="grid gap-x-3 rounded-lg border border-hair bg-sheet p-3 sm:grid-cols-[1fr_1fr_8rem]"
        onSubmit={(e) => {
          e.preventDefault();
          keep.mutate();
        }}
      >
        <Text label="What the shop is called" value={now.name} onChange={(name) => put({ name })} />
        <Text label="Its address" value={now.address} onChange={(address) => put({ address })} />
        <Text
          label="Currency"
          value={now.currency}
          onChange={(currency) => put({ currency: currency.toUpperCase().slice(0, 3) })}
        />
        <Logo there={there} />
        <div className="sm:col-span-3">
          <Trouble text={keep.isError ? told(keep.error) : null} />
          <BusyButton className="knob min-h-11" disabled={!changed} busy={keep.isPending}>
            {changed ? "Keep" : "Kept"}
          </BusyButton>
        </div>
      </form>
    </section>
  );
}

/** The jobs of a period as a workbook. */
export function PeriodBook() {
  // As the workshop writes its days, not as Greenwich does.
  const today = useToday().toLocaleDateString("sv-SE");
  const [first, setFirst] = useState(`${today.slice(0, 8)}01`);
  const [last, setLast] = useState(today);
  return (
    <section aria-label="Jobs of a period" className="mb-6">
      <h2 className="mb-1 text-lg font-bold">Jobs of a period</h2>
      <div className="flex flex-wrap items-end gap-3 rounded-lg border border-hair bg-sheet p-3">
        <Day label="From" value={first} set={setFirst} />
        <Day label="To" value={last} set={setLast} />
        <a
          className="knob min-h-11"
          href={`${BASE}/api/jobs-book.xlsx?first=${first}&last=${last}`}
          download
        >
          Workbook
        </a>
      </div>
    </section>
  );
}

interface DayProps {
  label: string;
  value: string;
  set: (day: string) => void;
}

function Day({ label, value, set }: DayProps) {
  return (
    <label>
      <span className="label">{label}</span>
      <input className="field" type="date" value={value} onChange={(e) => set(e.target.value)} />
    </label>
  );
}

/** The shop's mark on its papers. */
function Logo({ there }: { there: boolean }) {
  const put = useMutation({
    mutationFn: (file: Blob) =>
      got(
        api.PUT("/api/shop/logo", {
          body: file as unknown as string,
          bodySerializer: (body: unknown) => body as Blob,
          headers: { "Content-Type": "application/octet-stream" },
        }),
      ),
    onSuccess: (made) => queries.setQueryData(shopQuery.queryKey, made),
  });
  return (
    <div className="mb-2 flex flex-wrap items-end gap-3 sm:col-span-3">
      <label>
        <span className="label">{there ? "Another mark for papers" : "A mark for papers"}</span>
        <input
          type="file"
          accept="image/*"
          className="field py-2"
          onChange={(e) => {
            const file = e.target.files?.[0];
            if (file) put.mutate(file);
          }}
        />
      </label>
      {there && (
        <button type="button" className="knob min-h-11" onClick={() => put.mutate(new Blob())}>
          Take the mark away
        </button>
      )}
      <Trouble text={put.isError ? told(put.error) : null} />
    </div>
  );
}
