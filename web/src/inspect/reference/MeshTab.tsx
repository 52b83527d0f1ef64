/** Meshes beside the part: brought, laid on it, and how far they lie off it in every place. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { askAgain, get, post, type Refused, upload } from "../../api/client";
import type { Command, MeshCompared, MeshFitted, Part, ReferenceMesh, XYZ } from "../../api/types";
import { lengthSaid, volumeSaid } from "../../ui/measures";
import { UndoRedo } from "../../ui/UndoRedo";
import type { Shown } from "../checks/CheckTab";
import { hex, readPaint } from "../checks/paint";
import { boxCorners, deviationColour, deviationPaint } from "./deviation";
import { MeshPlace } from "./MeshPlace";

interface Props {
  id: string;
  ready: boolean;
  onShown: (shown: Shown | null) => void;
  onSpot: { chosen: number | null; choose: (k: number | null) => void };
}

type Side = "mesh" | "part";
const SIDES: [Side, string][] = [
  ["mesh", "the mesh, by how far it is off the part"],
  ["part", "the part, by how far the mesh is off it"],
];

export function MeshTab({ id, ready, onShown, onSpot }: Props) {
  const queries = useQueryClient();
  const partAsked = useQuery({
    queryKey: ["part beside meshes", id],
    queryFn: () => get<Part>(`/api/parts/${id}`),
  });
  const part = partAsked.data;
  const [which, setWhich] = useState<string | null>(null);
  const [side, setSide] = useState<Side>("mesh");
  const [busy, setBusy] = useState("");
  const [said, setSaid] = useState<{ bad: boolean; words: string } | null>(null);
  const picker = useRef<HTMLInputElement>(null);
  const meshes = (part?.document.references ?? []) as Required<ReferenceMesh>[];
  const mesh = meshes.find((m) => m.id === which) ?? meshes[0];
  const asked = useQuery({
    queryKey: ["mesh compared", id, part?.version, mesh?.id],
    queryFn: ({ signal }) => get<MeshCompared>(`/api/parts/${id}/meshes/${mesh!.id}/compared`, signal),
    enabled: ready && !!mesh && !busy,
    retry: askAgain,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const found = mesh ? asked.data : undefined;
  const key = found && (side === "mesh" ? found.on_mesh : found.on_part);
  const file = useQuery({
    queryKey: ["check paint", id, key],
    queryFn: async () => readPaint(await (await fetch(`/api/parts/${id}/mesh/${key}`)).arrayBuffer()),
    enabled: !!key,
    staleTime: Number.POSITIVE_INFINITY,
  }).data;
  const unit = part?.document.unit ?? "mm";
  const within = mesh?.within ?? 0.1;
  const f = found?.figures;
  const most = f
    ? Math.max(side === "mesh" ? Math.max(f.most_outside, -f.most_inside) : f.part_farthest, 2 * within)
    : 1;
  const paint = useMemo(() => (file ? deviationPaint(file, within, most) : null), [file, within, most]);
  const worst = useMemo(() => found?.worst.filter((w) => Math.abs(w.off) > within) ?? [], [found, within]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: onShown only sets a state
  useEffect(() => {
    if (!found || !paint || !file) return onShown(null);
    const chosen = onSpot.chosen === null ? null : worst[onSpot.chosen];
    onShown({
      paint,
      spots: worst.map((w) => ({ at: w.at as XYZ, out: true })),
      lit: onSpot.chosen,
      faces: chosen ? [chosen.face as [string, number]] : [],
      said: (corner) => offSaid(file.values[corner], unit),
      reach: boxCorners(file.corners),
      unit,
    });
  }, [found, paint, worst, onSpot.chosen]);
  useEffect(() => () => onShown(null), [onShown]);
  if (!part) return <p className="text-pencil">Opening the part …</p>;
  const may = part.role !== "viewer";

  async function change(doing: string, work: () => Promise<Part>, words?: (after: Part) => string) {
    setBusy(doing);
    setSaid(null);
    onSpot.choose(null);
    try {
      const after = await work();
      queries.setQueryData(["part beside meshes", id], after);
      queries.invalidateQueries({ queryKey: ["inspection", id] });
      const told = words?.(after);
      if (told) setSaid({ bad: false, words: told });
    } catch (error) {
      setSaid({ bad: true, words: (error as Refused).sentence });
      await partAsked.refetch();
    }
    setBusy("");
  }
  const command = (from: Part, data: Command) =>
    post<Part>(`/api/parts/${id}/commands`, { version: from.version, command: data });
  const bring = (chosen: File) =>
    change(
      `Reading ${chosen.name} …`,
      () => upload<Part>(`/api/parts/${id}/meshes`, { file: chosen, version: String(part!.version) }),
      (after) => {
        const all = (after.document.references ?? []) as ReferenceMesh[];
        setWhich(all[all.length - 1].id);
        return (after.said ?? []).join(" ");
      },
    );
  const set = (changes: Partial<ReferenceMesh>) =>
    change("Placing …", () => command(part!, { do: "set_reference", mesh: mesh!.id, changes }));
  const lay = () => {
    let told = "";
    return change(
      "Laying it on the part …",
      async () => {
        const best = await post<MeshFitted>(`/api/parts/${id}/meshes/${mesh!.id}/fit`);
        const { turn, at, before, after } = best;
        if (after >= before) {
          told = `It lies best where it is: ${lengthSaid(before, unit)} off in the root mean square.`;
          return part!;
        }
        told = `Laid on the part: ${lengthSaid(before, unit)} off in the root mean square before, ${lengthSaid(after, unit)} now.`;
        return command(part!, { do: "set_reference", mesh: mesh!.id, changes: { turn, at } });
      },
      () => told,
    );
  };

  return (
    <div
      className="grid max-w-[820px] gap-3"
      onDragOver={(e) => may && e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        const [dropped] = e.dataTransfer.files;
        if (may && dropped) bring(dropped);
      }}
    >
      <div className="flex items-baseline gap-3">
        <h2 className="head whitespace-nowrap">Meshes beside the part</h2>
        <span className="grow text-[12.5px] text-pencil">
          a scan of a made piece, or a shape somebody sent: STL, 3MF or GLB
        </span>
        <UndoRedo
          can={{ undo: may && part.can_undo, redo: may && part.can_redo }}
          onTravel={(way) =>
            change(way === "undo" ? "Taking back …" : "Doing again …", () =>
              post<Part>(`/api/parts/${id}/${way}`, { version: part!.version }),
            )
          }
        />
      </div>
      <div className="flex flex-wrap items-center gap-2">
        {meshes.map((m) => (
          <span
            key={m.id}
            className={`flex items-baseline gap-2 border px-2 py-0.5 ${m === mesh ? "border-ink bg-panel" : "border-hair"}`}
          >
            <button
              type="button"
              aria-pressed={m === mesh}
              onClick={() => {
                setWhich(m.id);
                onSpot.choose(null);
                setSaid(null);
              }}
            >
              {m.name || m.id}
            </button>
            {may && (
              <button
                type="button"
                aria-label={`Take ${m.name || m.id} away`}
                className="text-pencil hover:text-red"
                onClick={() =>
                  change("Taking away …", () => command(part!, { do: "remove_reference", mesh: m.id }))
                }
              >
                ×
              </button>
            )}
          </span>
        ))}
        {may && (
          <button type="button" className="btn" disabled={!!busy} onClick={() => picker.current?.click()}>
            Bring a mesh …
          </button>
        )}
        <input
          ref={picker}
          type="file"
          accept=".stl,.3mf,.glb"
          className="hidden"
          aria-label="File of a mesh"
          onChange={(e) => {
            const chosen = e.currentTarget.files?.[0];
            e.currentTarget.value = "";
            if (chosen) bring(chosen);
          }}
        />
      </div>
      {!meshes.length && !busy && (
        <p className="text-pencil">
          Nothing is beside this part yet. Bring the scan of a first piece, or drop the file here: it is laid
          on the part, and every place of it is measured.
        </p>
      )}
      {mesh && <MeshPlace key={mesh.id} mesh={mesh} unit={unit} may={may && !busy} onChange={set} />}
      {mesh && may && (
        <p>
          <button type="button" className="btn" disabled={!!busy || !ready} onClick={lay}>
            Lay it on the part
          </button>
          <span className="ml-3 text-[12.5px] text-pencil">
            least squares of all distances, from where it is and from every way round
          </span>
        </p>
      )}
      <p role="status">
        {busy || !ready ? (
          <span className="text-pencil">{busy || "The part is being built …"}</span>
        ) : said ? (
          <span className={said.bad ? "text-red" : ""}>{said.words}</span>
        ) : asked.error && mesh ? (
          <span className="text-red">{(asked.error as Refused).sentence}</span>
        ) : mesh && !found ? (
          <span className="text-pencil">Measuring …</span>
        ) : null}
      </p>
      {found && f && (
        <>
          <Figures found={found} within={within} unit={unit} />
          <fieldset className="flex flex-wrap gap-x-5 text-[12.5px]" aria-label="What is coloured">
            {SIDES.map(([name, words]) => (
              <label key={name} className="flex items-baseline gap-1.5">
                <input type="radio" name="coloured" checked={side === name} onChange={() => setSide(name)} />
                {words}
              </label>
            ))}
          </fieldset>
          <Scale within={within} most={most} unit={unit} />
          {worst.length > 0 && (
            <ol aria-label="Places farthest off">
              {worst.map((w, k) => (
                <li
                  key={`${w.of}${w.at}`}
                  className={`border-t border-hair ${onSpot.chosen === k ? "bg-redwash" : ""}`}
                >
                  <button
                    type="button"
                    className="flex w-full items-baseline gap-3 py-1 text-left"
                    aria-pressed={onSpot.chosen === k}
                    onClick={() => onSpot.choose(onSpot.chosen === k ? null : k)}
                  >
                    <span className="w-24 font-mono">{lengthSaid(Math.abs(w.off), unit)}</span>
                    <span className="grow">
                      {w.of === "part"
                        ? "from the part to the nearest of the mesh"
                        : w.off > 0
                          ? "the mesh out of the part"
                          : "the mesh within the part"}
                    </span>
                    <span className="font-mono text-[12px] text-pencil">
                      {w.at.map((v) => lengthSaid(v, unit, 2).replace(` ${unit}`, "")).join("  ")}
                    </span>
                  </button>
                </li>
              ))}
            </ol>
          )}
          {found.notes.map((n) => (
            <p key={n} className="text-[12.5px] text-pencil">
              {n}
            </p>
          ))}
        </>
      )}
    </div>
  );
}

/** How far a place is off, and to which side. */
export function offSaid(off: number, unit: string): string {
  if (!Number.isFinite(off)) return "";
  const size = lengthSaid(Math.abs(off), unit);
  return off > 0 ? `${size} outside` : off < 0 ? `${size} inside` : size;
}

function Figures({ found, within, unit }: { found: MeshCompared; within: number; unit: string }) {
  const f = found.figures;
  const percent = (share: number) => `${(Math.floor(share * 1000) / 10).toFixed(1)} %`;
  const rows: [string, string, boolean?][] = [
    ["farthest out of the part", lengthSaid(f.most_outside, unit), f.most_outside > within],
    ["farthest within it", lengthSaid(-f.most_inside, unit), -f.most_inside > within],
    ["mean", lengthSaid(f.mean, unit)],
    ["root mean square", lengthSaid(f.root_mean_square, unit)],
    [`of the mesh within ${lengthSaid(within, unit)}`, percent(f.mesh_within), f.mesh_within < 1],
    [`of the part within ${lengthSaid(within, unit)}`, percent(f.part_within), f.part_within < 1],
    ["farthest from the part to the mesh", lengthSaid(f.part_farthest, unit), f.part_farthest > within],
    ["volume of the mesh", f.mesh_volume === null ? "not closed" : volumeSaid(f.mesh_volume, unit)],
    ["volume of the part", volumeSaid(f.part_volume, unit)],
    ["triangles", f.triangles.toLocaleString("en")],
  ];
  return (
    <dl
      className="grid grid-cols-[auto_1fr_auto_1fr] gap-x-4 gap-y-0.5 text-[12.5px]"
      aria-label="Figures of the mesh"
    >
      {rows.map(([words, value, bad]) => (
        <div key={words} className="contents">
          <dt className="text-pencil">{words}</dt>
          <dd className={`font-mono ${bad ? "text-red" : ""}`}>{value}</dd>
        </div>
      ))}
    </dl>
  );
}

/** What the colours mean: from farthest within to farthest out, what is well in the middle. */
function Scale({ within, most, unit }: { within: number; most: number; unit: string }) {
  const n = 24;
  const at = (k: number) => within * (most / within) ** ((k + 0.5) / n);
  const bars = [
    ...Array.from({ length: n }, (_, k) => -at(n - 1 - k)),
    0,
    0,
    0,
    ...Array.from({ length: n }, (_, k) => at(k)),
  ];
  const wide = 420 / bars.length;
  const marks: [number, string][] = [
    [0, `−${lengthSaid(most, unit)}`],
    [n * wide, `−${lengthSaid(within, unit)}`],
    [(n + 3) * wide, `+${lengthSaid(within, unit)}`],
    [420, `+${lengthSaid(most, unit)}`],
  ];
  return (
    <figure aria-label="What the colours mean">
      <svg viewBox="-40 0 500 32" className="w-[500px]" aria-hidden="true">
        {bars.map((v, k) => (
          <rect
            key={k}
            x={k * wide}
            y={2}
            width={wide + 0.4}
            height={12}
            fill={hex(deviationColour(v, within, most))}
          />
        ))}
        {marks.map(([x, words], k) => (
          <text
            key={words}
            x={x}
            y={28}
            textAnchor={k === 1 ? "end" : k === 2 ? "start" : "middle"}
            className="fill-pencil font-mono text-[10px]"
          >
            {words}
          </text>
        ))}
      </svg>
      <figcaption className="text-[12.5px] text-pencil">
        cold: within the part · warm: out of it · press two places to measure between them
      </figcaption>
    </figure>
  );
}
