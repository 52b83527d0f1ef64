/** The head of a page of its own: whose it is, a few facts, the ways on; and what stands there when it cannot be opened. */
import type { ReactNode } from "react";
import { Link } from "react-router";
import type { Refused } from "../api/client";
import { Home } from "./Home";

interface PageHeadProps {
  title: string;
  facts: string;
  children: ReactNode;
}

export function PageHead({ title, facts, children }: PageHeadProps) {
  return (
    <header className="flex h-12 shrink-0 items-center gap-3 border-b border-hair bg-panel px-4">
      <Home />
      <span className="h-6 border-l border-hair" />
      <h1 className="truncate text-[15px] font-semibold">
        {title}
        <span className="ml-3 font-mono text-[12px] font-normal text-pencil">{facts}</span>
      </h1>
      <span className="grow" />
      {children}
    </header>
  );
}

export function CannotOpen({ error }: { error: unknown }) {
  return (
    <p className="p-10">
      {(error as Refused).sentence}{" "}
      <Link className="underline" to="/">
        Back to the library
      </Link>
    </p>
  );
}
