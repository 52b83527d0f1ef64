import { DropdownMenu } from "radix-ui";
import { useState } from "react";
import { download, type Refused, Stopped } from "../api/client";
import { showMessage, useBoard } from "../state/store";
import { lengthSaid } from "../ui/measures";
import { Waiting } from "../ui/Waiting";
import { DrawnOut } from "./DrawnOut";

const FILES = [
  ["export/step", "STEP file", "solid with names, colours, material, volume to be checked (AP214)"],
  ["export/step242", "STEP by AP242", "the same by the newer protocol"],
  ["export/3mf", "3MF file", "triangles with names, colours and unit, for printing"],
  ["export/glb", "GLB file", "glTF in one file, with names and colours, for looking at"],
  ["export/stl", "STL file", "triangles within a thousandth of its size"],
  ["export/stl?deviation=0.01", "STL file, fine", "triangles within 0.01 mm, a larger file"],
  ["export/stl-text", "STL file, as text", "one solid a body"],
  ["drawing/file/pdf", "Drawing", "views, sizes and title block, made from the part (PDF)"],
  ["drawing/file/dxf", "Drawing as DXF", "the same, with its sizes as dimensions"],
  ["inspection.pdf", "Inspection report", "every size with its verdict, the sheet with its balloons (PDF)"],
  ["inspection.xlsx", "Inspection workbook", "the same as a workbook (XLSX)"],
  ["inspection.csv", "Inspection table", "the same as a table (CSV)"],
  ["file", "Part file", "everything, as Sulvak's own JSON"],
] as const;

/** Files out of the part. */
export function OutMenu() {
  const part = useBoard((s) => s.part)!;
  const sketch = useBoard((s) => s.sketch);
  const unit = part.document.unit ?? "mm";
  const files = [
    ...FILES,
    ...(sketch
      ? ([
          [`sketches/${sketch}/file/dxf`, "Sketch as DXF", "the open sketch, in mm"],
          [`sketches/${sketch}/file/svg`, "Sketch as SVG", "the open sketch, 1 : 1"],
        ] as const)
      : []),
  ];
  const [drawing, setDrawing] = useState(false);
  const [writing, setWriting] = useState<AbortController | null>(null);
  async function fetchFile(path: string) {
    const stop = new AbortController();
    setWriting(stop);
    try {
      const told = await download(`/api/parts/${part.id}/${path}`, stop.signal);
      const [triangles, deviation] = [told.get("X-Triangles"), told.get("X-Deviation")];
      if (triangles && deviation)
        showMessage(
          `${Number(triangles).toLocaleString("en-GB")} triangles, none farther than ${lengthSaid(Number(deviation), unit, 4)} off the part.`,
          "proof",
        );
    } catch (error) {
      if (!(error instanceof Stopped)) showMessage((error as Refused).sentence, "red");
    } finally {
      setWriting(null);
    }
  }
  return (
    <DropdownMenu.Root>
      {writing && (
        <span className="font-cond text-pencil" aria-live="polite">
          <Waiting words="Writing" stop={() => writing.abort()} />
        </span>
      )}
      <DrawnOut open={drawing} onOpenChange={setDrawing} fetchFile={fetchFile} />
      <DropdownMenu.Trigger className={writing ? "hidden" : "btn btn-main whitespace-nowrap px-2"}>
        Files out
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={6}
          className="z-20 max-h-[80vh] w-[290px] overflow-auto border border-ink bg-panel py-1"
        >
          <DropdownMenu.Item
            onSelect={() => setDrawing(true)}
            className="cursor-pointer px-3 py-1.5 outline-none data-[highlighted]:bg-redwash"
          >
            <span className="font-medium">View, section or face …</span>
            <span className="block text-[12px] text-pencil">as DXF or SVG, 1 : 1, hidden lines dashed</span>
          </DropdownMenu.Item>
          {files.map(([path, words, more]) => (
            <DropdownMenu.Item
              key={path}
              onSelect={() => fetchFile(path)}
              className="cursor-pointer px-3 py-1.5 outline-none data-[highlighted]:bg-redwash"
            >
              <span className="font-medium">{words}</span>
              <span className="block text-[12px] text-pencil">{more}</span>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
