/** Bring a drawing: the first one, a newer issue of the one that is shown, a further one, or another instead. */
import { DropdownMenu } from "radix-ui";
import { useRef, useState } from "react";
import { type Refused, upload } from "../api/client";
import type { Part } from "../api/types";
import { applyPart, run } from "../document/commands";
import { board, showMessage, useBoard } from "../state/store";
import { pagesOf } from "./pages";

type How = "instead" | "newer" | "further";

const CHOICES: [How, string, string][] = [
  [
    "newer",
    "Newer issue of this sheet",
    "balloons stay where their size is found again; what changed is told",
  ],
  ["further", "Further sheet", "after those there are"],
  ["instead", "Another sheet instead", "balloons stay where they are on the page"],
];

/** ``number``: of the sheet that is shown, null while there is none; ``of``: how many further ones there are. */
export function BringSheet({ number, of }: { number: number | null; of: number }) {
  const input = useRef<HTMLInputElement>(null);
  const how = useRef<How>("instead");
  const [busy, setBusy] = useState(false);
  async function send(file: File) {
    const part = board().part!;
    setBusy(true);
    try {
      const after = await upload<Part>(`/api/parts/${part.id}/sheet`, {
        version: String(part.version),
        how: how.current,
        number: String(number ?? 0),
        file,
      });
      const last = pagesOf(after.document).length - 1;
      applyPart(after);
      useBoard.setState({
        sheetMode: null,
        sheetRead: null,
        ...(how.current === "further"
          ? { sheetPage: last }
          : how.current === "instead"
            ? { sheetPage: 0 }
            : {}),
      });
      if (after.said?.length) showMessage(after.said.join(" "));
    } catch (error) {
      showMessage((error as Refused).sentence, "red");
    } finally {
      setBusy(false);
      if (input.current) input.current.value = "";
    }
  }
  const ask = (as: How) => {
    how.current = as;
    input.current?.click();
  };
  const words = busy ? "reading …" : number === null ? "add a sheet" : "other sheet";
  const look = "font-cond text-[12.5px] text-pencil underline";
  return (
    <>
      <input
        ref={input}
        type="file"
        className="hidden"
        aria-label="Drawing file"
        accept=".pdf,.svg,.dxf,.png,.jpg,.jpeg"
        onChange={(e) => e.target.files?.[0] && send(e.target.files[0])}
      />
      {number === null ? (
        <button type="button" className={look} disabled={busy} onClick={() => ask("instead")}>
          {words}
        </button>
      ) : (
        <DropdownMenu.Root>
          <DropdownMenu.Trigger className={look} disabled={busy}>
            {words}
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="end" className="z-30 w-72 border border-ink bg-panel p-1">
              {CHOICES.map(([as, title, hint]) => (
                <DropdownMenu.Item
                  key={as}
                  className="cursor-default px-2 py-1 outline-none data-[highlighted]:bg-redwash"
                  onSelect={() => ask(as)}
                >
                  {title}
                  <span className="block text-[12px] text-pencil">{hint}</span>
                </DropdownMenu.Item>
              ))}
              <DropdownMenu.Item
                className="cursor-default px-2 py-1 outline-none data-[highlighted]:bg-redwash"
                onSelect={() => run({ do: "remove_sheet", number })}
              >
                Take this sheet away
                <span className="block text-[12px] text-pencil">
                  {of > 0 ? "the others stay; " : ""}its callouts stay, without a place
                </span>
              </DropdownMenu.Item>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      )}
    </>
  );
}
