/** Coming in by name and password, and the first time with a code. */
import { useId, useState, type ReactNode } from "react";
import { told } from "../../api/client";
import { BusyButton, Text, Trouble } from "../../ui/parts";
import { useFirstTime, useSignIn } from "./people";

interface SecretProps {
  label: string;
  value: string;
  onChange: (text: string) => void;
  kind: "current-password" | "new-password" | "one-time-code";
  digits?: boolean;
}

/** A line that is not read over a shoulder, unless somebody wants to see it; programs may fill it in. */
export function Secret({ label, value, onChange, kind, digits }: SecretProps) {
  const id = useId();
  const [seen, setSeen] = useState(false);
  return (
    <div className="mb-2">
      <label className="label" htmlFor={id}>
        {label}
      </label>
      <div className="flex gap-2">
        <input
          id={id}
          className="field"
          type={seen ? "text" : "password"}
          inputMode={digits ? "numeric" : "text"}
          autoComplete={kind}
          value={value}
          onChange={(e) => onChange(e.target.value)}
        />
        <button type="button" className="knob min-h-11 shrink-0" onClick={() => setSeen(!seen)}>
          {seen ? "Hide" : "Show"}
        </button>
      </div>
    </div>
  );
}

interface FormProps {
  label: string;
  go: () => void;
  ready: boolean;
  words: string;
  come: { isPending: boolean; error: unknown };
  children: ReactNode;
}

function Form({ label, go, ready, words, come, children }: FormProps) {
  return (
    <form
      aria-label={label}
      className="max-w-md"
      onSubmit={(e) => {
        e.preventDefault();
        if (ready) go();
      }}
    >
      {children}
      <Trouble text={come.error ? told(come.error) : null} />
      <BusyButton className="slab-knob min-h-12" disabled={!ready} busy={come.isPending}>
        {words}
      </BusyButton>
    </form>
  );
}

export function PasswordForm() {
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const come = useSignIn();
  return (
    <Form
      label="Name and password"
      go={() => come.mutate({ name, password })}
      ready={name !== "" && password !== ""}
      words="Come in"
      come={come}
    >
      <Text label="Name" value={name} onChange={setName} />
      <Secret label="Password" value={password} onChange={setPassword} kind="current-password" />
    </Form>
  );
}

interface FirstProps {
  name?: string;
  owner?: boolean;
  pinOnly?: boolean;
}

/** A code, and what one comes in by from now on: at a tablet a PIN, elsewhere a password. */
export function FirstForm({ name: known = "", owner = false, pinOnly = false }: FirstProps) {
  const [first, setFirst] = useState({ name: known, code: "", password: "", pin: "" });
  const come = useFirstTime();
  const put = (change: Partial<typeof first>) => setFirst({ ...first, ...change });
  const chosen = owner ? first.password !== "" : first.password !== "" || first.pin !== "";
  return (
    <Form
      label="The first time"
      go={() => come.mutate(first)}
      ready={first.name !== "" && first.code !== "" && chosen}
      words={owner ? "Own this shop" : "Come in"}
      come={come}
    >
      <p className="mb-3 text-soft">
        {owner
          ? "The code stands on the console of the server that was just started."
          : "The code comes from an owner of the shop. It works once."}
      </p>
      {known === "" && (
        <Text
          label="Your name, as it shall stand beside what you do"
          value={first.name}
          onChange={(name) => put({ name })}
        />
      )}
      <Text label="Code" value={first.code} onChange={(code) => put({ code })} />
      <Secret
        label="A PIN for paired tablets: 4 to 8 digits"
        value={first.pin}
        onChange={(pin) => put({ pin: pin.replaceAll(/\D/g, "") })}
        kind="new-password"
        digits
      />
      {!pinOnly && (
        <Secret
          label="A password of 12 characters or more; several words are good"
          value={first.password}
          onChange={(password) => put({ password })}
          kind="new-password"
        />
      )}
    </Form>
  );
}
