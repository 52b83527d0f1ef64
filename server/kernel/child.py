"""The process that runs the kernel: nothing else does. It has no database; it asks its parent for kept results.

Messages to the parent: ("begun",) when a request has been taken up; ("get", key) → bytes or None;
("put", key, bytes); ("progress", i, n); ("soon", a first part of the result);
("done", result) or ("failed", sentence). Requests: dictionaries with "do".
"""

import logging
import multiprocessing
import os
import resource
import sys
import threading
import time
from collections import OrderedDict
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from sulvak_server.logs import doing, to_console

from .comparing_questions import ComparingQuestions
from .drawing_questions import DrawingQuestions
from .file_questions import FileQuestions
from .making_questions import MakingQuestions
from .mass_questions import MassQuestions
from .reference_questions import ReferenceQuestions
from .release_questions import ReleaseQuestions


class _ParentStore:
    def __init__(self, pipe: Any) -> None:
        self.pipe = pipe

    def get(self, key: str) -> bytes | None:
        self.pipe.send(("get", key))
        return self.pipe.recv()

    def put(self, key: str, data: bytes) -> None:
        self.pipe.send(("put", key, data))


log = logging.getLogger("sulvak.kernel.child")
SOON = 60  # faces from which on pictures and figures are told before the proofs
PROGRESS = 0.2  # seconds between two words of progress


class Worker(
    ComparingQuestions,
    DrawingQuestions,
    FileQuestions,
    MassQuestions,
    MakingQuestions,
    ReferenceQuestions,
    ReleaseQuestions,
):
    """Answers requests; keeps results in memory between them."""

    def __init__(self, pipe: Any) -> None:
        from sulvak_core.rebuild.state import Cache

        self.pipe = pipe
        self.cache = Cache(_ParentStore(pipe))
        self.pictures: OrderedDict[str, Any] = OrderedDict()
        self.checks: OrderedDict[str, tuple[str, list[tuple[str, bytes]]]] = OrderedDict()
        self.sheets: dict[str, Any] = {}
        self.meshes_read: dict[str, Any] = {}
        self.steps: dict[str, tuple[Any, Any]] = {}

    def _document(self, request: dict[str, Any]) -> Any:
        """The document asked about. Steps that read as they did the last time are the same objects again, so what
        was worked out of them still stands."""
        from sulvak_core.steps.registry import load

        raw = request["document"]
        document = load(raw)
        steps = []
        fresh: dict[str, tuple[Any, Any]] = {}
        for plain, step in zip(raw["steps"], document.steps, strict=True):
            known = self.steps.get(step.id)
            fresh[step.id] = known if known is not None and known[0] == plain else (plain, step)
            steps.append(fresh[step.id][1])
        self.steps = fresh
        return document.model_copy(update={"steps": steps})

    def _build(self, document: Any) -> Any:
        from sulvak_core.rebuild.engine import build

        told = time.monotonic()

        def progress(i: int, n: int) -> None:
            nonlocal told
            if time.monotonic() - told > PROGRESS:  # steps that are known already pass in no time
                told = time.monotonic()
                self.pipe.send(("progress", i, n))

        return build(document, self.cache, progress=progress)

    def build(self, request: dict[str, Any]) -> dict[str, Any]:
        """Figures, and every body's picture: (key, head, mesh)."""
        from sulvak_core.inspect.prove import prove
        from sulvak_core.inspect.report import figures
        from sulvak_core.solid.outline import outline_svg
        from sulvak_core.solid.shapes import faces

        document = self._document(request)
        result = self._build(document)
        bodies = result.state.bodies
        told = figures(document, result)
        made: dict[str, Any] = {"figures": told, "bodies": [], "outline": ""}
        for body in bodies:
            with self._telling(told, f"A picture of {body.title or 'a body'} could not be made."):
                made["bodies"].append(self._picture(document, result.key, body))
        if sum(len(faces(b.shape)) for b in bodies) > SOON:
            self.pipe.send(("soon", {**made, "figures": {**told, "callouts": []}}))
        told["callouts"] = prove(document, result)
        if request.get("outline"):
            with self._telling(None, ""):
                made["outline"] = outline_svg([b.shape for b in bodies])
        return made

    @staticmethod
    @contextmanager
    def _telling(told: dict[str, Any] | None, sentence: str) -> Iterator[None]:
        """What goes wrong with one thing is told and logged; the rest of the build stands."""
        try:
            yield
        except MemoryError:
            raise
        except Exception:
            log.exception("a part of a build went wrong")
            if told is not None:
                told["troubles"].append(sentence)

    def _picture(self, document: Any, of: str, body: Any) -> tuple[str, dict[str, Any], bytes]:
        import hashlib

        from sulvak_core.inspect.report import body_picture

        order = ",".join(s.id for s in document.steps)  # the words on a face tell step numbers
        key = "m" + hashlib.sha256(f"{of} {body.id} {order}".encode()).hexdigest()
        if key not in self.pictures:
            self.pictures[key] = body_picture(document, body)
            while len(self.pictures) > 100:
                self.pictures.popitem(last=False)
        head, mesh = self.pictures[key]
        return key, head, mesh

    def preview(self, request: dict[str, Any]) -> dict[str, Any]:
        """A command tried: the reports, the bodies' pictures, and what is added and removed as meshes."""
        from sulvak_core.rebuild.difference import difference, sides_of
        from sulvak_core.steps.commands import read
        from sulvak_core.steps.effects import apply

        document = self._document(request)
        changed = apply(document, read(request["command"])).document
        self.cache.trying = True
        try:
            after = self._build(changed)
        finally:
            self.cache.trying = False
        from sulvak_core.inspect.mass import grams
        from sulvak_core.inspect.report import steps_told

        told = {
            "steps": steps_told(changed, after),
            "mass": {"mass": grams(changed, after.state), "volume": after.state.volume()},
        }
        command = request["command"]
        step = command["step"]["id"] if command["do"] == "add_step" else command.get("step")
        looks = command["do"] == "set_step" and command.get("changes", {}).get("suppressed") is True
        if command["do"] in ("add_step", "set_step") and step in after.states and not looks:
            # what the step itself does: the part after it against the part before it
            found = self._before(changed, after, step)
            sides = sides_of(changed.step(step))
            return {"figures": told, "difference": difference(found, after.states[step], sides)}
        return {"figures": told, "difference": difference(self._build(document).state, after.state)}

    def advice(self, request: dict[str, Any]) -> str:
        """The order adviser's sentences, or with ``step`` the places that step could take, as JSON; grams where the
        part has a material."""
        import json
        from dataclasses import asdict

        from sulvak_core.inspect.mass import density
        from sulvak_core.rebuild.adviser import advise, places

        document = self._document(request)
        result = self._build(document)
        rho = density(document, "")
        if request["step"]:
            found = [asdict(p) for p in places(document, result, self.cache, request["step"])]
        else:
            found = [asdict(a) for a in advise(document, result, self.cache)]
        grams = [None if rho is None or f["volume"] is None else f["volume"] * rho for f in found]
        return json.dumps([{**f, "grams": g} for f, g in zip(found, grams, strict=True)])

    @staticmethod
    def _before(document: Any, result: Any, step: str) -> Any:
        """The part as the step finds it."""
        from sulvak_core.rebuild.state import State

        order = [s.id for s in document.steps]
        at = order.index(step) - 1
        return result.states[order[at]] if at >= 0 else State()

    def state(self, request: dict[str, Any]) -> list[tuple[str, dict[str, Any], bytes]]:
        """The bodies' pictures as a step finds them (``side`` before) or leaves them (after)."""
        from sulvak_core.part.errors import Refusal

        document = self._document(request)
        result = self._build(document)
        step = request["step"]
        if step not in result.states:
            raise Refusal("This step is no longer in the route.")
        state = self._before(document, result, step) if request["side"] == "before" else result.states[step]
        return [self._picture(document, f"{result.key} {step} {request['side']}", b) for b in state.bodies]

    def edges(self, request: dict[str, Any]) -> str:
        """Edges of the part that a sketch can use, as JSON."""
        import json

        from sulvak_core.part.errors import Refusal
        from sulvak_core.rebuild.external_edges import on_offer

        document = self._document(request)
        result = self._build(document)
        frame = result.frames.get(request["step"])
        if frame is None:
            raise Refusal("This sketch has no place in the part just now; put its step right first.")
        state = self._before(document, result, request["step"])
        before = [s.id for s in document.steps[: document.position(request["step"]) // 10 - 1]]
        return json.dumps(on_offer([b.solid for b in state.bodies], frame, result.guides, before))

    def body_out(self, request: dict[str, Any]) -> tuple[str, list[tuple[str, bytes]]]:
        """One body as a STEP file of its own: JSON of its figures and the file's ``key``, and the file."""
        import hashlib
        import json

        from sulvak_core.exchange import solid_files
        from sulvak_core.inspect.mass import mass
        from sulvak_core.part.errors import Refusal
        from sulvak_core.rebuild.state import State

        document = self._document(request)
        body = next((b for b in self._build(document).state.bodies if b.id == request["body"]), None)
        if body is None:
            raise Refusal("This body is no longer in the part.")
        alone = State([body])
        data = solid_files.step(document, alone)
        (figures,) = mass(document, alone)["bodies"]
        key = "p" + hashlib.sha256(data).hexdigest()
        told = {k: figures[k] for k in ("volume", "area", "centre", "title", "material")}
        return json.dumps({**told, "key": key}), [(key, data)]

    def step_in(self, request: dict[str, Any]) -> str:
        """What a STEP file from outside holds, as JSON: names, volumes in mm³ and numbers of faces of its solids."""
        import json

        from sulvak_core.part.errors import Refusal
        from sulvak_core.solid.incoming import read_step
        from sulvak_core.solid.shapes import KernelError, faces

        data = self.cache.file(request["file"])
        if data is None:
            raise Refusal("This file is not here any more; bring it in again.")
        try:
            found = read_step(data, "s0").bodies
        except KernelError as error:
            raise Refusal(error.sentence) from None
        told = [{"name": f.name, "volume": f.solid.volume(), "faces": len(faces(f.solid.shape))} for f in found]
        return json.dumps({"bodies": told})

    def measure(self, request: dict[str, Any]) -> str:
        """What one or two things pointed at measure, as JSON."""
        import json
        from dataclasses import asdict

        from sulvak_core.inspect.measuring import Pick, measure

        document = self._document(request)
        picks = [Pick.model_validate(p) for p in request["picks"]]
        return json.dumps(asdict(measure(document, self._build(document).state, picks)))

    def likely(self, request: dict[str, Any]) -> str:
        """Where on the part a callout is most likely meant, as JSON."""
        import json

        from sulvak_core.inspect.likely import likely
        from sulvak_core.part.errors import Refusal

        document = self._document(request)
        callout = next((b for b in document.callouts if b.id == request["callout"]), None)
        if callout is None:
            raise Refusal("This callout is no longer on the sheet.")
        found = likely(document, self._build(document).state, callout)
        return json.dumps([{**vars(f), "gauged": f.gauged.model_dump(mode="json")} for f in found])

    def report(self, request: dict[str, Any]) -> str:
        """The inspection report of the part as PDF, in base 64; ``sheets``: data and media type of each sheet."""
        import base64

        from sulvak_core.exchange.report_pdf import report_pdf
        from sulvak_core.exchange.report_sections import checks_section, mass_section
        from sulvak_core.inspect.mass import mass
        from sulvak_core.inspect.method import rows
        from sulvak_core.inspect.prove import prove
        from sulvak_core.making.checks import checked
        from sulvak_core.part.units import in_unit
        from sulvak_core.solid.outline import ISOMETRIC, lines

        document = self._document(request)
        made = self._build(document)
        shapes = [b.shape for b in made.state.bodies]
        weighed = mass(document, made.state)
        checks = [checked(document, made, name) for name in document.shop.asked]
        told = [(c.check, c.passed, [in_unit(f.said, document.unit) for f in c.findings]) for c in checks]
        pdf = report_pdf(
            document,
            rows(document, prove(document, made)),
            request["heading"],
            request["uncovered"],
            lines(shapes, *ISOMETRIC) if shapes else None,
            request["sheets"],
            lambda: [*mass_section(document, weighed), *checks_section(told)],
        )
        return base64.b64encode(pdf).decode()

    def lines(self, request: dict[str, Any]) -> str:
        """The bodies as a drawing shows them from one side, hidden lines told apart, as JSON."""
        import json
        from dataclasses import asdict

        from sulvak_core.solid.outline import lines

        bodies = self._build(self._document(request)).state.bodies
        shown = [b.shape for b in bodies if b.id in request["bodies"]]
        return json.dumps(asdict(lines(shown, request["towards"], request["right"])))

    def sheet_lines(self, request: dict[str, Any]) -> str:
        """The lines of a page of the sheet, held against the part."""
        import json
        from dataclasses import asdict

        from sulvak_core.exchange.sheet_files import scale_of
        from sulvak_core.inspect.overlay import overlaid
        from sulvak_core.inspect.sheet_lines import SheetLines, compare_lines

        document = self._document(request)
        hit = document.page(request["page"])
        look = hit[0].look(hit[1]) if hit else None
        shapes = [b.shape for b in self._build(document).state.bodies]
        found = SheetLines([], 0.0)
        if request["media_type"] not in ("image/png", "image/jpeg"):
            page, mm = scale_of(request["data"], request["media_type"], request["own"])
            found = compare_lines(
                page, shapes, (look.scale if look else 0.0) or mm, request["tolerance"], document.projection == "third"
            )
        if hit and look and look.views and shapes:
            found.views += overlaid(shapes, hit[0].pages[hit[1]], look.views).views
        return json.dumps(asdict(found))

    def place_view(self, request: dict[str, Any]) -> str:
        """A view placed by two corners of it, as JSON."""
        from sulvak_core.inspect.overlay import place_by_corners
        from sulvak_core.part.errors import Refusal

        document = self._document(request)
        hit = document.page(request["page"])
        if hit is None:
            raise Refusal("This page is no longer on the sheet.")
        sheet, own = hit
        look = sheet.look(own)
        shapes = [b.shape for b in self._build(document).state.bodies]
        (a, b), side = request["corners"], request["side"]
        taken = [v.side for v in look.views]
        return place_by_corners(
            shapes, sheet.pages[own], (tuple(a), tuple(b)), side, look.scale, taken
        ).model_dump_json()

    def fit(self, request: dict[str, Any]) -> str:
        """What would fit a sketch to the sheet, as JSON; ``hints`` by callout: where its size stands."""
        import json

        from sulvak_core.part.errors import Refusal
        from sulvak_core.sheet.hints import Hint
        from sulvak_core.steps.kinds.sketch import SketchStep
        from sulvak_core.steps.sketch_fit import fitted

        document = self._document(request)
        step = document.step(request["step"])
        if not isinstance(step, SketchStep):
            raise Refusal("This sketch is no longer in the route.")
        return json.dumps(fitted(document, step, {k: Hint(**v) for k, v in request["hints"].items()}))

    def pages(self, request: dict[str, Any]) -> list[tuple[float, float]]:
        from sulvak_core.sheet.pages import page_sizes

        return page_sizes(request["data"])

    def page(self, request: dict[str, Any]) -> bytes:
        from sulvak_core.sheet.pages import page_png

        return page_png(request["data"], request["page"], request.get("longest") or 0)

    def sheet_reading(self, request: dict[str, Any]) -> tuple[dict[str, Any], bytes]:
        """What a page of a vector sheet says, and the page itself as JSON."""
        import json

        from sulvak_core.exchange.sheet_files import sheet_reading

        said, page = sheet_reading(request["data"], request["media_type"], request["page"])
        return said, json.dumps(page, separators=(",", ":")).encode()

    def sheet_drawn(self, request: dict[str, Any]) -> tuple[dict[str, Any], bytes]:
        """A DXF sheet as SVG; its size in points and the mm a point stands for."""
        from sulvak_core.exchange.sheet_files import dxf_drawn

        drawn, size, mm = dxf_drawn(request["data"])
        return {"size": size, "mm": mm}, drawn.encode()

    def drawing(self, request: dict[str, Any]) -> str:
        from sulvak_core.exchange.dxf_in import read_dxf
        from sulvak_core.exchange.svg_in import read_svg

        data = request["data"]
        head = data[:1000].lstrip(b"\xef\xbb\xbf \t\r\n")
        return (read_svg if head.startswith(b"<") else read_dxf)(data).model_dump_json()

    # for tests of the limits: what hostile geometry would do
    def crash(self, request: dict[str, Any]) -> None:
        import os
        import signal

        os.kill(os.getpid(), signal.SIGSEGV)

    def hang(self, request: dict[str, Any]) -> None:
        import time

        time.sleep(3600)

    def swell(self, request: dict[str, Any]) -> int:
        return len([bytearray(64 << 20) for _ in range(10_000)])


def _end_with(parent: Any) -> None:
    """End when the worker that started this has ended: what it was to answer nobody waits for."""
    parent.join()
    os._exit(1)


def _answer(worker: Worker, pipe: Any, request: dict[str, Any]) -> None:
    """Do what is asked, and send what came of it, whatever that is."""
    from sulvak_core.part.errors import Refusal

    try:
        pipe.send(("done", getattr(worker, request["do"])(request)))
    except Refusal as refusal:
        pipe.send(("failed", refusal.sentence))
    except MemoryError:
        worker.cache.memory.clear()
        worker.pictures.clear()
        pipe.send(("failed", "This needs more memory than one part may take; make it simpler."))
    except Exception as error:
        log.exception("kernel work broke down")
        pipe.send(("failed", f"The geometry kernel could not finish this ({type(error).__name__})."))


def main(pipe: Any, core: str, memory: int) -> None:
    """Serve requests until the pipe closes. ``memory`` is the address space limit in bytes."""
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    threading.Thread(target=_end_with, args=(multiprocessing.parent_process(),), daemon=True).start()
    sys.path.insert(0, str(Path(core)))
    to_console()
    worker = Worker(pipe)
    pipe.send(("ready",))
    while True:
        try:
            request = pipe.recv()
        except EOFError:
            return
        pipe.send(("begun",))
        with doing(request.pop("doing", request["do"])):
            _answer(worker, pipe, request)
