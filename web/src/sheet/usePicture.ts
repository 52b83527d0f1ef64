/** The picture of a page, as sharp as it is looked at; while a sharper one comes, the one before stays. */
import { useEffect, useState } from "react";
import { useBoard } from "../state/store";
import type { SheetPage } from "./pages";

const STEPS = [1200, 2400, 4800, 9600];

/** ``page``: its number through all sheets. */
export function usePicture({ sheet }: SheetPage, page: number, longest: number): string {
  const id = useBoard((s) => s.part!.id);
  const grows = sheet.media_type === "application/pdf";
  const wanted = STEPS.find((s) => s >= longest * (window.devicePixelRatio || 1)) ?? STEPS[STEPS.length - 1];
  const own = `/api/parts/${id}/sheet/${page}?${sheet.sha256.slice(0, 12)}`;
  const source = grows ? `${own}&longest=${wanted}` : own;
  const [shown, setShown] = useState({ own, source });
  useEffect(() => {
    if (shown.own !== own) {
      setShown({ own, source });
      return;
    }
    if (shown.source === source) return;
    const late = setTimeout(() => {
      const next = new Image();
      next.src = source;
      next.decode().then(
        () => setShown({ own, source }),
        () => undefined,
      );
    }, 200);
    return () => clearTimeout(late);
  }, [own, source, shown]);
  return shown.own === own ? shown.source : source;
}
