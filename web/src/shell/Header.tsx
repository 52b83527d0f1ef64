import { Link } from "react-router";
import { travel } from "../document/commands";
import { openSketch } from "../sketch/openSketch";
import type { LeafName } from "../state/store";
import { steps, useBoard } from "../state/store";
import { previewNow } from "../steps/draft";
import { Home } from "../ui/Home";
import { grams } from "../ui/measures";
import { UndoRedo } from "../ui/UndoRedo";
import { Waiting } from "../ui/Waiting";
import { OutMenu } from "./OutMenu";

/** Show a leaf beside the work, or the route again if it stood there. */
const turnTo = (leaf: LeafName) => useBoard.setState((s) => ({ leaf: s.leaf === leaf ? null : leaf }));

export function Header() {
  const part = useBoard((s) => s.part)!;
  const build = useBoard((s) => s.build);
  const saving = useBoard((s) => s.saving);
  const connected = useBoard((s) => s.connected);
  const people = useBoard((s) => s.people);
  const progress = useBoard((s) => s.progress);
  const preview = useBoard(previewNow);
  const d = part.document;
  const sketches = Object.entries(part.sketches);
  const freedom = sketches.reduce((n, [, k]) => n + k.freedom, 0);
  const loose = sketches.find(([, k]) => k.freedom > 0)?.[0];
  const verdicts = (build?.callouts ?? []).filter((v) => v.state !== "note" && v.state !== "reference");
  const proven = verdicts.filter((v) => v.state === "proven").length;
  const building = build?.version !== part.version;
  const old = building || Boolean(build?.broken);
  return (
    <header className="flex h-12 shrink-0 items-center gap-2 border-b border-hair bg-panel px-4">
      <Home />
      <span className="h-6 border-l border-hair" />
      <h1 className="min-w-0">
        <button
          type="button"
          className="w-full truncate text-left text-[15px] font-semibold"
          title="The part's data"
          onClick={() => turnTo("data")}
        >
          {d.name}{" "}
          <span className="ml-3 font-mono text-[12px] font-normal text-pencil">
            {d.number || "no number"} · rev {d.revision}
          </span>
        </button>
      </h1>
      <span className="grow" />
      <Gauge
        label="Freedom"
        value={sketches.length ? String(freedom) : "–"}
        tone={!sketches.length ? "" : freedom ? "text-red" : "text-proof"}
        help={
          freedom
            ? `${freedom} degrees of freedom are left over all sketches; press to open the first loose one`
            : "All sketches are fully constrained"
        }
        onPress={() => loose && openSketch(loose)}
      />
      <Gauge
        label="Proven"
        value={build?.pending ? "…" : `${proven} / ${verdicts.length}`}
        tone={
          old || build?.pending
            ? "italic text-faint"
            : verdicts.length && proven === verdicts.length
              ? "text-proof"
              : ""
        }
        help={
          build?.pending
            ? "The callouts are being proven"
            : `${proven} of ${verdicts.length} callouts are proven on the solid`
        }
        onPress={() => {
          const open = verdicts.find((v) => v.state !== "proven");
          useBoard.setState({ callout: open?.callout ?? null });
        }}
      />
      <MassGauge
        mass={(preview?.mass ?? build?.mass?.mass) || null}
        state={preview?.mass ? "tried" : old ? "old" : "true"}
        onPress={() => turnTo("data")}
      />
      <UndoRedo can={{ undo: part.can_undo, redo: part.can_redo }} onTravel={(way) => travel(way)} />
      <button
        type="button"
        title="Versions: name one, or go back to one"
        className="min-w-[92px] whitespace-nowrap text-left font-cond text-[12.5px] text-pencil hover:underline"
        aria-live="polite"
        onClick={() => turnTo("versions")}
      >
        {!connected ? (
          <span className="text-red">connecting …</span>
        ) : saving ? (
          "storing …"
        ) : building && steps(part).length ? (
          <Waiting words={progress ? `building ${progress.done} of ${progress.of}` : "building"} />
        ) : (
          `saved${people.length > 1 ? ` · ${people.length} here` : ""}`
        )}
      </button>
      <Link className="btn px-2" to={`/parts/${part.id}/inspection`}>
        Inspection
      </Link>
      <Link className="btn px-2" to={`/parts/${part.id}/drawing`}>
        Drawing
      </Link>
      <Link className="btn px-2" to={`/parts/${part.id}/release`}>
        Release
      </Link>
      <OutMenu />
    </header>
  );
}

function Gauge({
  label,
  value,
  tone,
  help,
  onPress,
}: {
  label: string;
  value: string;
  tone: string;
  help: string;
  onPress: () => void;
}) {
  return (
    <button
      type="button"
      title={help}
      aria-label={`${label} ${value}. ${help}`}
      onClick={onPress}
      className="flex shrink-0 items-baseline gap-2 rounded-sm border border-hair bg-vellum px-2.5 py-1 hover:border-ink"
    >
      <span className="font-cond text-[11.5px] uppercase tracking-wider text-pencil">{label}</span>{" "}
      <span className={`font-mono text-[14px] font-medium ${tone}`}>{value}</span>
    </button>
  );
}

const SAID = { true: "", tried: ", of what is being tried", old: ", of the part before the last change" };

function MassGauge({
  mass,
  state,
  onPress,
}: {
  mass: number | null;
  state: "true" | "tried" | "old"; // of the part as it is, of what is being tried, of the part before the last change
  onPress: () => void;
}) {
  const d = useBoard((s) => s.part!.document);
  const target = d.target_mass;
  const within = target && mass !== null ? Math.abs(mass - target.grams) <= target.tolerance + 1e-9 : null;
  const tone = within === null ? "" : within ? "text-proof" : "text-red";
  const help = !d.material
    ? "Choose a material to see the mass"
    : target
      ? `Target ${grams(target.grams, d.mass_unit)} ± ${grams(target.tolerance, d.mass_unit)}`
      : "No target mass is set; press to set one";
  const span = target ? Math.max(target.tolerance * 4, target.grams * 0.02) : 1;
  const place = (g: number) => Math.max(0, Math.min(64, 32 + ((g - target!.grams) / span) * 32));
  return (
    <button
      type="button"
      title={help}
      aria-label={`${state === "tried" ? "Mass tried" : "Mass"} ${grams(mass, d.mass_unit)}${SAID[state]}. ${help}`}
      onClick={onPress}
      className="flex shrink-0 items-center gap-2 rounded-sm border border-hair bg-vellum px-2.5 py-1 hover:border-ink"
    >
      <span className="font-cond text-[11.5px] uppercase tracking-wider text-pencil">
        {state === "tried" ? "Mass tried" : "Mass"}
      </span>{" "}
      <span
        className={`font-mono text-[14px] font-medium ${state === "old" ? "italic text-faint" : tone} ${state === "tried" ? "italic" : ""}`}
      >
        {grams(mass, d.mass_unit)}
      </span>
      {target && (
        <svg width="64" height="12" aria-hidden="true">
          <rect x="0" y="4" width="64" height="4" fill="#fff" stroke="#D9D3C3" />
          <rect
            x={place(target.grams - target.tolerance)}
            y="3"
            width={place(target.grams + target.tolerance) - place(target.grams - target.tolerance)}
            height="6"
            fill="#BFD9D2"
          />
          {mass !== null && (
            <rect x={place(mass) - 1} y="0" width="2.4" height="12" fill={within ? "#1E2A44" : "#B83720"} />
          )}
        </svg>
      )}
    </button>
  );
}
