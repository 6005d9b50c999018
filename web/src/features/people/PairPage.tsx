/** A tablet becomes one of the shop's: its name, and the code that came with the picture it scanned. */
import { useState } from "react";
import { useNavigate } from "react-router";
import { told } from "../../api/client";
import { BusyButton, Text, Trouble } from "../../ui/parts";
import { useClaim } from "./people";

export default function PairPage() {
  const [code, setCode] = useState(() => decodeURIComponent(window.location.hash.slice(1)));
  const [scanned] = useState(code !== "");
  const [name, setName] = useState("");
  const claim = useClaim();
  const navigate = useNavigate();
  const ready = code !== "" && name.trim() !== "";
  return (
    <main className="mx-auto grid min-h-dvh max-w-xl content-start gap-4 p-5">
      <title>Pair this tablet · Plumb</title>
      <h1 className="text-3xl font-bold">Pair this tablet</h1>
      <p className="text-soft">
        Done once. From then on people come in here by tapping their name and a PIN of their own.
      </p>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (ready) claim.mutate({ code, name }, { onSuccess: () => void navigate("/") });
        }}
      >
        <Text label="What this tablet is called: where it lies" value={name} onChange={setName} />
        {!scanned && <Text label="Code" value={code} onChange={setCode} />}
        <Trouble text={claim.isError ? told(claim.error) : null} />
        <BusyButton className="slab-knob min-h-14 text-lg" disabled={!ready} busy={claim.isPending}>
          Pair it
        </BusyButton>
      </form>
    </main>
  );
}
