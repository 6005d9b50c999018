/** Small parts used everywhere: key caps, wrapped Radix primitives, a problem line. */
import * as RadixDialog from "@radix-ui/react-dialog";
import * as RadixPopover from "@radix-ui/react-popover";
import { useId, type ComponentProps, type ReactNode } from "react";
import { ENTRY, toEntry } from "../lib/keys";

export function Kbd({ children }: { children: ReactNode }) {
  return (
    <kbd className="figure rounded border border-hair bg-field px-1.5 py-0.5 text-xs font-bold text-ink">
      {children}
    </kbd>
  );
}

/** A button whose work takes a moment: meanwhile it does nothing, and the keyboard keeps its place. */
export function BusyButton({
  busy,
  onClick,
  ...rest
}: ComponentProps<"button"> & { busy: boolean }) {
  return (
    <button
      {...rest}
      aria-disabled={busy || undefined}
      onClick={(e) => (busy ? e.preventDefault() : onClick?.(e))}
    />
  );
}

/** What stands there while a screen comes: a page with a heading of its own. */
export function Opening() {
  return (
    <main className="p-6" aria-busy>
      <h1>Opening…</h1>
    </main>
  );
}

/** The keys after a window has closed: another's that is open, the entry line's, else where they were. */
function keysAfter(e: Event): void {
  if (document.querySelector("[role=dialog]") || toEntry()) e.preventDefault();
}

/** A form opens at its first field, ready to be typed over. */
function atFirstField(e: Event): void {
  const field = (e.target as HTMLElement).querySelector<HTMLInputElement>("form input.field");
  if (!field) return;
  e.preventDefault();
  field.select();
}

interface DialogProps {
  title: string;
  open: boolean;
  onOpenChange: (open: boolean) => void;
  children: ReactNode;
  wide?: boolean;
  note?: string;
}

/** A window over the page; Escape and the cross close it. */
export function Dialog({ title, open, onOpenChange, children, wide, note }: DialogProps) {
  return (
    <RadixDialog.Root open={open} onOpenChange={onOpenChange}>
      <RadixDialog.Portal>
        <RadixDialog.Overlay className="fixed inset-0 z-40 bg-black/50" />
        <RadixDialog.Content
          onCloseAutoFocus={keysAfter}
          className={`fixed left-1/2 top-1/2 z-50 max-h-[92dvh] w-[96vw] -translate-x-1/2 -translate-y-1/2 overflow-auto rounded-xl border border-hair bg-sheet p-5 text-ink ${
            wide ? "max-w-4xl" : "max-w-lg"
          }`}
          {...(note ? {} : { "aria-describedby": undefined })}
        >
          <RadixDialog.Title className="mb-3 pr-32 text-xl font-bold">{title}</RadixDialog.Title>
          {note && (
            <RadixDialog.Description className="mb-3 text-soft">{note}</RadixDialog.Description>
          )}
          {children}
          {/* Last in the order of focus, so that a form's first field is the first stop. */}
          <RadixDialog.Close className="knob absolute right-4 top-4" aria-label="Close">
            Close <Kbd>Esc</Kbd>
          </RadixDialog.Close>
        </RadixDialog.Content>
      </RadixDialog.Portal>
    </RadixDialog.Root>
  );
}

interface ChipProps {
  name: string;
  value: string;
  open: boolean;
  onOpenChange: (open: boolean) => void;
  children: ReactNode;
}

/** A condition of a sheet: shows what it is, opens to change it. */
export function Chip({ name, value, open, onOpenChange, children }: ChipProps) {
  return (
    <RadixPopover.Root open={open} onOpenChange={onOpenChange}>
      <RadixPopover.Trigger data-paper className="knob shrink-0 gap-1.5 px-2.5">
        {name} <b>{value}</b>
      </RadixPopover.Trigger>
      <RadixPopover.Portal>
        <RadixPopover.Content
          align="start"
          sideOffset={6}
          collisionPadding={8}
          aria-label={name}
          onOpenAutoFocus={atFirstField}
          // What was changed is on its way, and the entry line has the keys: a refusal still shows here.
          onFocusOutside={(e) => {
            if (document.activeElement?.closest(ENTRY)) e.preventDefault();
          }}
          // Another may be open by the time this one gives the focus back: taking it would close that one.
          onCloseAutoFocus={keysAfter}
          className="z-40 max-h-[75dvh] w-80 max-w-[94vw] overflow-auto rounded-xl border border-soft bg-sheet p-4 text-ink"
        >
          {children}
        </RadixPopover.Content>
      </RadixPopover.Portal>
    </RadixPopover.Root>
  );
}

interface TextProps {
  label: string;
  value: string;
  onChange: (text: string) => void;
  numeric?: boolean;
}

/** A labelled line of text or a figure. */
export function Text({ label, value, onChange, numeric }: TextProps) {
  const id = useId();
  return (
    <div className="mb-2">
      <label className="label" htmlFor={id}>
        {label}
      </label>
      <input
        id={id}
        className="field"
        inputMode={numeric ? "decimal" : "text"}
        autoComplete="off"
        value={value}
        onChange={(e) => onChange(e.target.value)}
      />
    </div>
  );
}

/** What did not work, said where it happened. */
export function Trouble({ text }: { text: string | null }) {
  return text ? (
    <p role="alert" className="my-2 border-l-4 border-high pl-3 text-sm">
      {text}
    </p>
  ) : null;
}

/** A moment in short: its day and minute. */
export function shortly(moment: string): string {
  return new Date(moment).toLocaleString("en-GB", {
    day: "numeric",
    month: "short",
    hour: "2-digit",
    minute: "2-digit",
  });
}

/** When a repeat was begun, and why. */
export function againWords({ taken, reason }: { taken: string; reason: string }): string {
  const at = shortly(taken);
  return reason === "" ? at : `${at}, ${reason}`;
}
