/** What a press on a callout does, in the list or on its balloon. */
import type { Callout } from "../api/types";
import { run } from "../document/commands";
import { board, editable, useBoard } from "../state/store";
import { feedDraft } from "../steps/feeds";

/** A callout pressed: it goes into a size that is being worked out, feeds an open value field or the chosen dimension,
 * else it lights what uses it. ``more``: it is chosen beside others, or let go of them. */
export function pressCallout(c: Callout, more = false) {
  const s = board();
  if (more) {
    const several = s.several.length || !s.callout || s.callout === c.id ? s.several : [s.callout];
    useBoard.setState({
      callout: null,
      several: several.includes(c.id) ? several.filter((id) => id !== c.id) : [...several, c.id],
    });
    return;
  }
  if (s.several.length) useBoard.setState({ several: [] });
  if (s.workingOut !== null) {
    // after another balloon or a number it is taken off
    const between = /[\d\])]\s*$/.test(s.workingOut) ? " - " : "";
    useBoard.setState({ workingOut: `${s.workingOut}${between}[${c.number}]` });
  } else if (s.field) {
    const typed = s.part?.callouts[c.id]?.typed || s.field.text;
    useBoard.setState({ field: { ...s.field, callout: c.id, text: typed } });
  } else if (s.tool?.typed.length && s.tool.feed(c.id, s.part?.callouts[c.id]?.typed ?? "")) return;
  else if (s.draft) feedDraft(c.id);
  else if (s.sketch && s.chosen.length === 1 && /^d\d+$/.test(s.chosen[0]) && editable())
    run({ do: "link_callout", callout: c.id, step: s.sketch, field: s.chosen[0] });
  else {
    useBoard.setState({ callout: s.callout === c.id ? null : c.id });
    if (c.link && !s.sketch) useBoard.setState({ openStep: c.link.step });
  }
}
