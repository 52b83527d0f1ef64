/** Text with the drawing symbols that the shipped letters lack, drawn as ISO 129 and ASME Y14.5 draw them. */

const DRAWN: Record<string, { d: string; said: string }> = {
  "⌴": { d: "M2 3V11H12V3", said: "counterbore" },
  "⌵": { d: "M2 3L7 11L12 3", said: "countersink" },
  "↧": { d: "M2 2H12M7 2V11M4 8L7 12L10 8", said: "depth" },
};

export function NotationText({ text }: { text: string }) {
  const parts = text.split(/([⌴⌵↧])/);
  if (parts.length === 1) return <>{text}</>;
  return (
    <>
      {parts.map((part, i) =>
        DRAWN[part] ? (
          <svg
            key={i}
            viewBox="0 0 14 14"
            className="inline h-[0.85em] w-[0.85em] align-baseline"
            role="img"
            aria-label={DRAWN[part].said}
          >
            <path d={DRAWN[part].d} fill="none" stroke="currentColor" strokeWidth="1.5" />
          </svg>
        ) : (
          part
        ),
      )}
    </>
  );
}
