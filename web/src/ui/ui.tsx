/** Small pieces every view uses. */
import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

export function Sheet({
  title,
  open,
  onOpenChange,
  children,
}: {
  title: string;
  open: boolean;
  onOpenChange: (open: boolean) => void;
  children: ReactNode;
}) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 bg-ink/25" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed left-1/2 top-24 w-[460px] -translate-x-1/2 border border-ink bg-panel p-5"
        >
          <div className="mb-3 flex items-baseline justify-between">
            <Dialog.Title className="head">{title}</Dialog.Title>
            <Dialog.Close className="font-cond text-[12.5px] text-pencil underline">
              close <span className="font-mono text-[11px] no-underline">Esc</span>
            </Dialog.Close>
          </div>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

export function Labelled({ label, children }: { label: string; children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the control is the child
    <label className="mb-3 block" data-label={label}>
      <span className="mb-1 block text-[12px] text-pencil">{label}</span>
      {children}
    </label>
  );
}

export function Balloon({
  number,
  tone = "ink",
  size = 21,
}: {
  number: number;
  tone?: "ink" | "red" | "faint";
  size?: number;
}) {
  const colour = {
    ink: "border-ink text-ink",
    red: "border-red text-red",
    faint: "border-faint text-pencil",
  }[tone];
  return (
    <span
      className={`inline-flex shrink-0 items-center justify-center rounded-full border font-cond ${colour}`}
      style={{ width: size, height: size, fontSize: size * 0.54 }}
    >
      {number}
    </span>
  );
}
