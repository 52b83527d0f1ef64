"""Makes the demo's sheets and part files anew: python -m demo.make (with core/ on the path).

The parts are modelled here by the same commands the screen sends, so they are as real as any. Those that the demo
shows unfinished, or with a mistake, are in ``finished`` as they are when they are done.
"""

from __future__ import annotations

import json

from sulvak_core.exchange import part_file

from .arm import tilt_arm
from .clamp import boom_clamp
from .cleat import line_cleat, received
from .cradle import camera_cradle
from .hub import finished_hub, pan_hub
from .lid import pod_lid
from .maker import HERE, Maker
from .plates import ballast_bar, cross_plate, finished_bar
from .pod import electronics_pod, mended_pod

SHOWN = (
    cross_plate,
    pan_hub,
    electronics_pod,
    ballast_bar,
    camera_cradle,
    tilt_arm,
    boom_clamp,
    pod_lid,
    line_cleat,
)
FINISHED = (finished_hub, mended_pod, finished_bar)


def file_name(maker: Maker) -> str:
    return maker.document.name.lower().replace(" ", "-")


def main() -> None:
    listed = []
    (HERE / "line-cleat.dxf").write_text(received())
    (HERE / "finished").mkdir(exist_ok=True)
    for make in SHOWN:
        maker = make()
        name = file_name(maker)
        (HERE / f"{name}.json").write_text(part_file.write(maker.document))
        listed.append({"part": f"{name}.json", "sheet": f"{name}.svg"})
    for make in FINISHED:
        maker = make()
        (HERE / "finished" / f"{file_name(maker)}.json").write_text(part_file.write(maker.document))
    (HERE / "parts.json").write_text(json.dumps(listed, indent=1) + "\n")


if __name__ == "__main__":
    main()
