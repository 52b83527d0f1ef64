import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { post, Refused } from "../api/client";
import type { Me } from "../api/types";
import { Labelled } from "../ui/ui";

export function SignIn({ me }: { me: Me }) {
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [said, setSaid] = useState("");
  const [busy, setBusy] = useState(false);
  const queries = useQueryClient();

  async function submit(event: FormEvent) {
    event.preventDefault();
    setBusy(true);
    try {
      await post("/api/sign-in", { name, password });
      await queries.invalidateQueries();
    } catch (error) {
      setSaid(error instanceof Refused ? error.sentence : "Something went wrong; try again.");
    } finally {
      setBusy(false);
    }
  }

  return (
    <main className="grid h-full grid-cols-[1fr_460px]">
      <div className="flex flex-col justify-between border-r border-hair p-12">
        <p className="text-[15px] font-semibold tracking-[0.22em]">SULVAK</p>
        <Drafted />
        <p className="max-w-[52ch] text-pencil">
          From a dimensioned sheet to a solid part: every sketch fully constrained, every callout proven on
          the solid, the mass always in view.
        </p>
      </div>
      <form onSubmit={submit} className="flex flex-col justify-center bg-panel px-14">
        <h1 className="head mb-5 text-[14px]">Sign in</h1>
        <Labelled label="Name">
          <input
            className="field"
            autoFocus
            autoComplete="username"
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
        </Labelled>
        <Labelled label="Password">
          <input
            className="field"
            type="password"
            autoComplete="current-password"
            value={password}
            onChange={(e) => setPassword(e.target.value)}
          />
        </Labelled>
        {said && (
          <p role="alert" className="mb-3 text-red">
            {said}
          </p>
        )}
        <button type="submit" className="btn btn-main self-start" disabled={busy || !name || !password}>
          Sign in
        </button>
        {me.demo && (
          <div className="mt-10 border-t border-hair pt-4 text-pencil">
            <p className="mb-2">
              This is the demo: the workshop of Fenmarsh Kite Survey. Name{" "}
              <b className="text-ink">{me.demo.name}</b>, password{" "}
              <b className="text-ink">{me.demo.password}</b>.
            </p>
            <button
              type="button"
              className="btn"
              onClick={() => {
                setName(me.demo!.name);
                setPassword(me.demo!.password);
              }}
            >
              Fill these in
            </button>
          </div>
        )}
      </form>
    </main>
  );
}

/** A drawing of what the product is about: one profile half in pencil, half inked in. */
function Drafted() {
  return (
    <svg viewBox="0 0 420 240" className="w-[min(560px,90%)] self-center" aria-hidden="true">
      <g fill="none" stroke="#8C8577" strokeWidth="1.2">
        <path d="M250 60 H330 A30 30 0 0 1 360 90 V150 A30 30 0 0 1 330 180 H250" strokeDasharray="1 0" />
        <circle cx="330" cy="120" r="16" />
        {[
          [250, 60],
          [250, 180],
        ].map(([x, y]) => (
          <circle key={y} cx={x} cy={y} r="3" fill="#F4F1E8" />
        ))}
      </g>
      <path d="M246 60 H70 V180 H246" fill="none" stroke="#1E2A44" strokeWidth="2.4" />
      <circle cx="110" cy="120" r="16" fill="none" stroke="#1E2A44" strokeWidth="2.4" />
      <g stroke="#A8741A" strokeWidth="0.8" strokeDasharray="16 3 3 3">
        <path d="M50 120 H380M110 90V150M330 90V150" />
      </g>
      <g stroke="#1E2A44" strokeWidth="0.7" fill="#1E2A44">
        <path d="M70 190V220M110 190V220" />
        <path d="M70 214H110" />
        <path d="M70 214l8 -2.4v4.8zM110 214l-8 -2.4v4.8z" />
      </g>
      <text x="90" y="209" textAnchor="middle" fontFamily="IBM Plex Mono" fontSize="13" fill="#1E2A44">
        10
      </text>
    </svg>
  );
}
