"""Questions about a part's mass, answered in a kernel process."""

from typing import Any

from .worker_tools import WorkerTools


class MassQuestions(WorkerTools):
    """Figures, what drives them, a target met, extremes, an example weighed."""

    def mass(self, request: dict[str, Any]) -> str:
        """The part's mass figures in a ``frame``, as JSON, with the frames there are."""
        import json

        from sulvak_core.inspect.mass_in_frame import frames, mass_in_frame

        document = self._document(request)
        made = self._build(document)
        known = [{"id": i, "name": name} for i, (name, _) in frames(document, made).items()]
        return json.dumps({**mass_in_frame(document, made, request["frame"]), "frames": known})

    def drivers(self, request: dict[str, Any]) -> str:
        """What each size brings in mass (of every n-th size: ``share``), and what the part weighs, as JSON."""
        import json
        from dataclasses import asdict

        from sulvak_core.rebuild.trials import Trials
        from sulvak_core.weighing.drivers import drivers

        document = self._document(request)
        made = self._build(document)
        with self._trying():
            found = drivers(document, made, self.cache, tuple(request["share"]), self._told)
        now = Trials(document, made, self.cache).now()
        return json.dumps({"rows": [asdict(d) for d in found], "volume": now.volume, "grams": now.grams})

    def meet_mass(self, request: dict[str, Any]) -> str:
        """Values of sizes that bring the part to a mass, as JSON."""
        import json
        from dataclasses import asdict

        from sulvak_core.weighing.meet import Bounds, meet
        from sulvak_core.weighing.sizes import by_key

        document = self._document(request)
        made = self._build(document)
        asked = [Bounds(by_key(document, b["key"]), b["low"], b["high"]) for b in request["bounds"]]
        with self._trying():
            found = meet(document, made, self.cache, request["target"], request["tolerance"], asked, self._told)
        return json.dumps(asdict(found))

    def extremes(self, request: dict[str, Any]) -> str:
        """The lightest and the heaviest part within its limits, built, as JSON."""
        import json

        from sulvak_core.weighing.band import play_from_data
        from sulvak_core.weighing.extremes import extremes

        document = self._document(request)
        made = self._build(document)
        with self._trying():
            return json.dumps(extremes(document, made, self.cache, [play_from_data(p) for p in request["plays"]]))

    def weigh_example(self, request: dict[str, Any]) -> str:
        """What the simulated bench scale reads of a made example, as JSON."""
        import json
        from dataclasses import asdict

        from sulvak_core.weighing.band import band_from_data
        from sulvak_core.weighing.bench_scale import weigh

        document = self._document(request)
        made = self._build(document)
        with self._trying():
            return json.dumps(
                asdict(weigh(document, made, self.cache, band_from_data(request["band"]), request["seed"]))
            )

    def changed_lines(self, request: dict[str, Any]) -> str:
        """The part's outline as it is and with sizes at other values, from one side, as JSON."""
        import json
        from dataclasses import asdict

        from sulvak_core.part.errors import Refusal
        from sulvak_core.rebuild.trials import Trials
        from sulvak_core.solid.outline import ISOMETRIC, lines
        from sulvak_core.weighing.sizes import by_key, changed

        document = self._document(request)
        made = self._build(document)
        values = {by_key(document, key): value for key, value in request["values"].items()}
        other = changed(document, values)
        with self._trying():
            after = self._build(other)
        told = Trials(document, made, self.cache).told(other, after)
        if told.broken:
            raise Refusal(told.said)
        shown = {
            name: asdict(lines([b.shape for b in build.state.bodies], *ISOMETRIC))
            for name, build in (("before", made), ("after", after))
        }
        return json.dumps({**shown, "grams": told.grams, "volume": told.volume})
