"""Draws the demo's sheets: SVG, A4 landscape, lines and dimensions after ISO 128 and ISO 129."""

from __future__ import annotations

import math
from xml.sax.saxutils import escape

WIDTH, HEIGHT = 297.0, 210.0
XY = tuple[float, float]
BALLOON = 7.0  # mm: room for a balloon beside a text


def _beside(words: str) -> float:
    """How far from the middle of a text a balloon stands clear of it, in mm."""
    return 1.05 * len(words) + BALLOON


class Sheet:
    """A sheet in mm, y down. Dimension calls give back a place for the balloon."""

    def __init__(
        self, title: str, number: str, material: str, scale: str, notes: list[str], first_angle: bool = False
    ) -> None:
        self.parts: list[str] = []
        self._frame(title, number, material, scale, first_angle)
        for i, note in enumerate(notes):
            self.text((20, 22 + 5 * i), note, 3.2, "start")

    def _path(self, d: str, width: float, dash: str = "", fill: str = "none") -> None:
        dashes = f' stroke-dasharray="{dash}"' if dash else ""
        self.parts.append(f'<path d="{d}" fill="{fill}" stroke="#1c1c1c" stroke-width="{width}"{dashes}/>')

    def line(self, a: XY, b: XY, kind: str = "visible") -> None:
        width, dash = {
            "visible": (0.5, ""),
            "hidden": (0.25, "3 1.2"),
            "centre": (0.2, "8 1.2 1.2 1.2"),
            "thin": (0.2, ""),
        }[kind]
        self._path(f"M{a[0]:.3f} {a[1]:.3f}L{b[0]:.3f} {b[1]:.3f}", width, dash)

    def outline(self, points: list[XY], kind: str = "visible") -> None:
        for a, b in zip(points, [*points[1:], points[0]], strict=True):
            self.line(a, b, kind)

    def rect(self, x: float, y: float, w: float, h: float, kind: str = "visible") -> None:
        self.outline([(x, y), (x + w, y), (x + w, y + h), (x, y + h)], kind)

    def circle(self, c: XY, r: float, centre: bool = True, kind: str = "visible") -> None:
        width, dash = {"visible": (0.5, ""), "thin": (0.2, "8 1.2 1.2 1.2")}[kind]
        self.parts.append(
            f'<circle cx="{c[0]:.3f}" cy="{c[1]:.3f}" r="{r:.3f}" fill="none" stroke="#1c1c1c" '
            f'stroke-width="{width}"' + (f' stroke-dasharray="{dash}"' if dash else "") + "/>"
        )
        if centre:
            over = r + 2.5
            self.line((c[0] - over, c[1]), (c[0] + over, c[1]), "centre")
            self.line((c[0], c[1] - over), (c[0], c[1] + over), "centre")

    def arc(self, c: XY, r: float, a: XY, b: XY) -> None:
        """The shorter arc from ``a`` to ``b``, clockwise as seen."""
        self._path(f"M{a[0]:.3f} {a[1]:.3f}A{r:.3f} {r:.3f} 0 0 1 {b[0]:.3f} {b[1]:.3f}", 0.5)

    def shape(self, corners: list[tuple[float, float, float]], kind: str = "visible") -> None:
        """A closed outline through corners (x, y, radius), each rounded by its radius."""
        width, dash = {"visible": (0.5, ""), "hidden": (0.25, "3 1.2")}[kind]
        words: list[str] = []
        for i, (x, y, r) in enumerate(corners):
            (ax, ay, _), (bx, by, _) = corners[i - 1], corners[(i + 1) % len(corners)]
            u = (math.hypot(ax - x, ay - y), math.hypot(bx - x, by - y))
            one, two = ((ax - x) / u[0], (ay - y) / u[0]), ((bx - x) / u[1], (by - y) / u[1])
            half = math.acos(max(-1.0, min(1.0, one[0] * two[0] + one[1] * two[1]))) / 2
            back = r / math.tan(half)
            p, q = (x + back * one[0], y + back * one[1]), (x + back * two[0], y + back * two[1])
            words.append(f"{'L' if words else 'M'}{p[0]:.3f} {p[1]:.3f}")
            if r:
                sweep = 1 if one[0] * two[1] - one[1] * two[0] < 0 else 0
                words.append(f"A{r:g} {r:g} 0 0 {sweep} {q[0]:.3f} {q[1]:.3f}")
        self._path("".join(words) + "Z", width, dash)

    def slot(self, c: XY, long: float, r: float) -> None:
        """A level slot about ``c``, ``long`` between the centres of its ends."""
        (x, y), h = c, long / 2
        self._path(
            f"M{x - h:.3f} {y - r:.3f}H{x + h:.3f}A{r:g} {r:g} 0 0 1 {x + h:.3f} {y + r:.3f}"
            f"H{x - h:.3f}A{r:g} {r:g} 0 0 1 {x - h:.3f} {y - r:.3f}Z",
            0.5,
        )

    def sweep(self, c: XY, r: float, a: XY, b: XY, large: bool) -> None:
        """An arc about ``c`` from ``c + a`` clockwise as seen to ``c + b``; ``large``: more than half a turn."""
        p, q = (c[0] + a[0], c[1] + a[1]), (c[0] + b[0], c[1] + b[1])
        self._path(f"M{p[0]:.3f} {p[1]:.3f}A{r:g} {r:g} 0 {int(large)} 1 {q[0]:.3f} {q[1]:.3f}", 0.5)

    def text(self, at: XY, words: str, size: float = 3.5, anchor: str = "middle", turn: float = 0.0) -> None:
        turned = f' transform="rotate({turn} {at[0]:.3f} {at[1]:.3f})"' if turn else ""
        self.parts.append(
            f'<text x="{at[0]:.3f}" y="{at[1]:.3f}" font-family="IBM Plex Mono, monospace" font-size="{size}" '
            f'text-anchor="{anchor}" fill="#1c1c1c"{turned}>{escape(words)}</text>'
        )

    def _arrow(self, at: XY, angle: float) -> None:
        x, y = at
        left = (x - 3 * math.cos(angle - 0.16), y - 3 * math.sin(angle - 0.16))
        right = (x - 3 * math.cos(angle + 0.16), y - 3 * math.sin(angle + 0.16))
        self._path(f"M{x:.3f} {y:.3f}L{left[0]:.3f} {left[1]:.3f}L{right[0]:.3f} {right[1]:.3f}Z", 0.1, "", "#1c1c1c")

    def across(self, a: XY, b: XY, y: float, words: str) -> XY:
        """A horizontal dimension between the heights of a and b, its line at ``y``."""
        side = 1.5 if y > a[1] else -1.5
        for p in (a, b):
            self.line((p[0], p[1] + side), (p[0], y + side), "thin")
        self.line((a[0], y), (b[0], y), "thin")
        outside = abs(b[0] - a[0]) < 9
        self._arrow((a[0], y), 0.0 if outside else math.pi)
        self._arrow((b[0], y), math.pi if outside else 0.0)
        at = ((a[0] + b[0]) / 2, y - 1.2)
        self.text(at, words)
        return (at[0] + _beside(words), at[1] - 1)

    def upright(self, a: XY, b: XY, x: float, words: str) -> XY:
        """A vertical dimension, its line at ``x``; the text reads from the right."""
        side = 1.5 if x > a[0] else -1.5
        for p in (a, b):
            self.line((p[0] + side, p[1]), (x + side, p[1]), "thin")
        self.line((x, a[1]), (x, b[1]), "thin")
        top, low = (a, b) if a[1] < b[1] else (b, a)
        outside = abs(a[1] - b[1]) < 9
        self._arrow((x, top[1]), math.pi / 2 if outside else -math.pi / 2)
        self._arrow((x, low[1]), -math.pi / 2 if outside else math.pi / 2)
        at = (x - 1.2, (a[1] + b[1]) / 2)
        self.text(at, words, turn=-90)
        return (at[0] - 1, at[1] - _beside(words))

    def leader(self, tip: XY, knee: XY, words: str) -> XY:
        """A leader from ``tip`` to ``knee`` and a level shelf with the text."""
        self.line(tip, knee, "thin")
        self._arrow(tip, math.atan2(tip[1] - knee[1], tip[0] - knee[0]))
        way = 1 if knee[0] >= tip[0] else -1
        long = 2.15 * len(words) + 2
        self.line(knee, (knee[0] + way * long, knee[1]), "thin")
        at = (knee[0] + way * long / 2, knee[1] - 1.2)
        self.text(at, words)
        return (knee[0] + way * (long + BALLOON), knee[1])

    def _frame(self, title: str, number: str, material: str, scale: str, first_angle: bool) -> None:
        self.rect(10, 10, WIDTH - 20, HEIGHT - 20)
        x, y, w, h = WIDTH - 10 - 110, HEIGHT - 10 - 30, 110, 30
        self.rect(x, y, w, h)
        self.line((x, y + 10), (x + w, y + 10), "thin")
        self.line((x, y + 20), (x + w, y + 20), "thin")
        self.line((x + 66, y), (x + 66, y + h), "thin")
        for (dx, dy), label, value in [
            ((2, 0), "TITLE", title),
            ((2, 10), "MATERIAL", material),
            ((2, 20), "OWNER", "FENMARSH KITE SURVEY"),
            ((68, 0), "NUMBER", number),
            ((68, 10), "SCALE / UNIT", f"{scale}  mm"),
            ((68, 20), "PROJECTION", ""),
        ]:
            self.text((x + dx, y + dy + 3.2), label, 2.0, "start")
            self.text((x + dx, y + dy + 8), value, 3.2, "start")
        self._projection((x + 84, y + 25.5), first_angle)

    def _projection(self, at: XY, first_angle: bool) -> None:
        """A truncated cone and its small end, on the side that the angle of projection puts it (ISO 5456-2)."""
        x, y = at
        end, cone = (x + 12.5, x - 3) if first_angle else (x, x + 7)
        self.circle((end, y), 3, False)
        self.circle((end, y), 1.5, False)
        self.outline([(cone, y - 1.5), (cone + 8, y - 3), (cone + 8, y + 3), (cone, y + 1.5)])
        self.line((x - 4.5, y), (x + 17, y), "centre")

    def svg(self) -> str:
        return (
            f'<svg xmlns="http://www.w3.org/2000/svg" width="{WIDTH:g}mm" height="{HEIGHT:g}mm" '
            f'viewBox="0 0 {WIDTH:g} {HEIGHT:g}"><rect width="{WIDTH:g}" height="{HEIGHT:g}" fill="#fff"/>\n'
            + "\n".join(self.parts)
            + "\n</svg>\n"
        )


def balloon(at: XY) -> XY:
    """A place on the page as fractions."""
    return (at[0] / WIDTH, at[1] / HEIGHT)
