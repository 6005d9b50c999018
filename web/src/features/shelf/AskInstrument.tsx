/** Where an instrument is, and a button that asks it: what answered is shown as it came. */
import { useMutation } from "@tanstack/react-query";
import api, { got, told } from "../../api/client";
import { BusyButton, Text, Trouble } from "../../ui/parts";

interface Props {
  address: string;
  command: string;
  /** Empty: it is a burst box, which is asked for its own words. */
  unit: string;
  onAddress: (text: string) => void;
  onCommand?: (text: string) => void;
}

const USUAL: Record<string, string> = {
  ohm: "MEAS:RES?",
  V: "MEAS:VOLT?",
  A: "MEAS:CURR?",
  ml: "MEAS:VOL?",
};

const tried = (address: string, command: string, unit: string) =>
  got(
    api.POST("/api/instruments/try", {
      body: { address: address.trim(), command: command.trim(), unit: unit as "psi" },
    }),
  );

export function AskInstrument({ address, command, unit, onAddress, onCommand }: Props) {
  const ask = useMutation({ mutationFn: () => tried(address, command, unit) });
  return (
    <fieldset className="mb-3 border-t border-hair pt-2">
      <legend className="label pr-2">On the network or a serial line</legend>
      <Text label="Address; empty: it is read by eye" value={address} onChange={onAddress} />
      <p className="-mt-1 mb-2 text-sm text-soft">
        <span className="figure break-all">TCPIP::192.168.4.20::5025::SOCKET</span>,{" "}
        <span className="figure">ASRL/dev/ttyUSB0 9600 8N1</span>, a logger’s{" "}
        <span className="figure">FOLDER:/srv/logger</span>
        {onCommand && (
          <>
            , or this browser’s own port: <span className="figure">BROWSER:SERIAL</span>
          </>
        )}
      </p>
      {onCommand && (
        <Text
          label={`Command that reads it; empty: ${USUAL[unit] ?? "MEAS:PRES?"}`}
          value={command}
          onChange={onCommand}
        />
      )}
      <BusyButton
        type="button"
        className="knob min-h-11"
        disabled={address.trim() === ""}
        busy={ask.isPending}
        onClick={() => ask.mutate()}
      >
        {ask.isPending ? "Asking…" : "Ask it"}
      </BusyButton>
      <div aria-live="polite">
        {ask.data && <Answer {...ask.data} />}
        <Trouble text={ask.isError ? told(ask.error) : null} />
      </div>
    </fieldset>
  );
}

interface Answered {
  answers: boolean;
  identity: string;
  readings: string[];
  rate_hz: number;
  problems: string[];
}

function Answer({ answers, identity, readings, rate_hz, problems }: Answered) {
  return (
    <>
      {answers && (
        <p className="mt-2 border-l-4 border-chalk pl-3 text-sm">
          <b>{identity || "It has no name"}</b> answers{" "}
          <span className="figure">{readings.join(", ")}</span>
          {rate_hz > 0 && `; ${Math.round(rate_hz)} a second`}
        </p>
      )}
      {problems.map((p) => (
        <Trouble key={p} text={p} />
      ))}
    </>
  );
}
