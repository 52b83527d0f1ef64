"""The table of spellings: what a drafter may write, and what is understood. Each line one callout."""

from __future__ import annotations

import pytest

from sulvak_core.sheet.notation import parse
from sulvak_core.sheet.requirement import said

# text; what it means: kind nominal, then what else is not as it is by itself
TABLE = """
48                              | linear 48
48.5                            | linear 48.5 decimals=1
48,5                            | linear 48.5 decimals=1
.5                              | linear 0.5 decimals=1
0                               | linear 0
48 mm                           | linear 48
48mm                            | linear 48
1.25 in                         | linear 31.75 decimals=2
1.25"                           | linear 31.75 decimals=2
1 1/4"                          | linear 31.75
1-1/4"                          | linear 31.75
5/8 in                          | linear 15.875
t3                              | linear 3
t=3                             | linear 3
t = 1.5                         | linear 1.5 decimals=1
3 THK                           | linear 3
3 THICK                         | linear 3
THK 3                           | linear 3
□20                             | linear 20 square
□ 20 ±0.1                       | linear 20 square upper=0.1 lower=-0.1
20 SQ                           | linear 20 square
SQ 20                           | linear 20 square
Ø8                              | diameter 8
⌀8                              | diameter 8
ø 8                             | diameter 8
∅8.5                            | diameter 8.5 decimals=1
DIA 8                           | diameter 8
8 DIA                           | diameter 8
8 DIA.                          | diameter 8
.250 DIA                        | diameter 0.25 decimals=3
1/4" DIA                        | diameter 6.35
S⌀12                            | diameter 12 spherical
SØ 12                           | diameter 12 spherical
SPHERICAL DIA 12                | diameter 12 spherical
R6                              | radius 6
R 6                             | radius 6
R.5                             | radius 0.5 decimals=1
6 R                             | radius 6
6R                              | radius 6
RAD 6                           | radius 6
CR3                             | radius 3
SR10                            | radius 10 spherical
SR 10 ±0.2                      | radius 10 spherical upper=0.2 lower=-0.2
30°                             | angle 30
30 °                            | angle 30
30 DEG                          | angle 30
30.5°                           | angle 30.5
22,5°                           | angle 22.5
30° 30'                         | angle 30.5
30°15′                          | angle 30.25
12°30'36"                       | angle 12.51
45° ±0.5°                       | angle 45 upper=0.5 lower=-0.5
45° ±30'                        | angle 45 upper=0.5 lower=-0.5
45° ±0°15'                      | angle 45 upper=0.25 lower=-0.25
60° +1°/-0.5°                   | angle 60 upper=1 lower=-0.5
3X ⌀3.4                         | diameter 3.4 count=3 decimals=1
3x Ø3.4                         | diameter 3.4 count=3 decimals=1
3×⌀3.4                          | diameter 3.4 count=3 decimals=1
3 X ⌀3.4                        | diameter 3.4 count=3 decimals=1
3 × R2                          | radius 2 count=3
3X R2                           | radius 2 count=3
3X 20                           | linear 20 count=3
4x 12.5                         | linear 12.5 count=4 decimals=1
3 X 20                          | linear 20 count=3
2X 30°                          | angle 30 count=2
2X (20)                         | linear 20 count=2 reference
⌀5 4 PLACES                     | diameter 5 count=4
⌀5 4 PLCS                       | diameter 5 count=4
⌀5 4 PL                         | diameter 5 count=4
⌀5 (4 PLACES)                   | diameter 5 count=4
⌀5, 4 HOLES                     | diameter 5 count=4
⌀5 (4X)                         | diameter 5 count=4
⌀5 4X                           | diameter 5 count=4
R3 2 PLCS.                      | radius 3 count=2
R3 TYP                          | radius 3 typical
R3 TYP.                         | radius 3 typical
3 TYPICAL                       | linear 3 typical
⌀5 TYP 4 PLACES                 | diameter 5 typical count=4
R2 BOTH SIDES                   | radius 2
48 ±0.1                         | linear 48 upper=0.1 lower=-0.1
48±0.1                          | linear 48 upper=0.1 lower=-0.1
48 +/-0.1                       | linear 48 upper=0.1 lower=-0.1
48 +-0.1                        | linear 48 upper=0.1 lower=-0.1
48 ± 0,1                        | linear 48 upper=0.1 lower=-0.1
48 +0.1/-0.05                   | linear 48 upper=0.1 lower=-0.05
48 +0.1 -0.05                   | linear 48 upper=0.1 lower=-0.05
48 -0.05/+0.1                   | linear 48 upper=0.1 lower=-0.05
48 +0.1/0                       | linear 48 upper=0.1
48 +0.1 0                       | linear 48 upper=0.1
48 0/-0.1                       | linear 48 lower=-0.1
48 +0/-0.1                      | linear 48 lower=-0.1
48 +0.1                         | linear 48 upper=0.1
48 -0.1                         | linear 48 lower=-0.1
48 +0.2/+0.1                    | linear 48 upper=0.2 lower=0.1 typed=48.15
48 -0.1/-0.2                    | linear 48 upper=-0.1 lower=-0.2 typed=47.85
⌀8 +0.1/-0                      | diameter 8 upper=0.1
R6 ±0.2                         | radius 6 upper=0.2 lower=-0.2
1.500 ±.005 in                  | linear 38.1 upper=0.127 lower=-0.127 decimals=3
48.2/48.0                       | linear 48.1 upper=0.1 lower=-0.1 decimals=1
48.0-48.2                       | linear 48.1 upper=0.1 lower=-0.1 decimals=1
⌀8.1/8.0                        | diameter 8.05 upper=0.05 lower=-0.05 decimals=1
⌀8.1\\n8.0                      | diameter 8.05 upper=0.05 lower=-0.05 decimals=1
R6.2 - 5.8                      | radius 6 upper=0.2 lower=-0.2 decimals=1
12 H7                           | linear 12 upper=0.018 fit=H7
⌀12 H7                          | diameter 12 upper=0.018 fit=H7
⌀12H7                           | diameter 12 upper=0.018 fit=H7
2X ⌀12 H7 THRU                  | diameter 12 upper=0.018 fit=H7 count=2 through
⌀8 g6                           | diameter 8 upper=-0.005 lower=-0.014 fit=g6 typed=7.9905
⌀25 k6                          | diameter 25 upper=0.015 lower=0.002 fit=k6 typed=25.0085
⌀20 f7                          | diameter 20 upper=-0.02 lower=-0.041 fit=f7 typed=19.9695
⌀50 h9                          | diameter 50 lower=-0.062 fit=h9
⌀40 js7                         | diameter 40 upper=0.0125 lower=-0.0125 fit=js7
⌀40 JS7                         | diameter 40 upper=0.0125 lower=-0.0125 fit=JS7
⌀10 P7                          | diameter 10 upper=-0.009 lower=-0.024 fit=P7 typed=9.9835
8 N9                            | linear 8 lower=-0.036 fit=N9
⌀12 H7 (+0.018/0)               | diameter 12 upper=0.018 fit=H7
⌀12 H7 (12.018/12.000)          | diameter 12 upper=0.018 fit=H7
R3 MAX                          | radius 3 bound=max
R3 MAX.                         | radius 3 bound=max
MAX R3                          | note
R MAX 0.5                       | radius 0.5 bound=max decimals=1
0.5 MIN                         | linear 0.5 bound=min decimals=1
⌀8 ↧ 5 MIN                      | diameter 8 depth=5 bound=min
(52)                            | linear 52 reference
(⌀52)                           | diameter 52 reference
( 52 )                          | linear 52 reference
52 REF                          | linear 52 reference
52 REF.                         | linear 52 reference
[50]                            | linear 50 basic
[⌀50]                           | diameter 50 basic
50 BASIC                        | linear 50 basic
50 BSC                          | linear 50 basic
[30°]                           | angle 30 basic
25.4 [1.000]                    | linear 25.4 decimals=1
1.000 in [25.4]                 | linear 25.4 decimals=3
⌀6.35 [.250]                    | diameter 6.35 decimals=2
25.4 ±0.1 [1.000 ±.004]         | linear 25.4 upper=0.1 lower=-0.1 decimals=1
⌀8 THRU                         | diameter 8 through
⌀8 THRU ALL                     | diameter 8 through
⌀8 THROUGH                      | diameter 8 through
⌀8 THRU HOLE                    | diameter 8 through
⌀8 DRILL THRU                   | diameter 8 through
DRILL ⌀8 THRU                   | diameter 8 through
⌀8 REAM                         | diameter 8
⌀8 ↧ 5                          | diameter 8 depth=5
⌀8↧5                            | diameter 8 depth=5
⌀8 DEEP 5                       | diameter 8 depth=5
⌀8 X 5 DEEP                     | diameter 8 depth=5
⌀8 5 DEEP                       | diameter 8 depth=5
⌀8 DEPTH 5 ±0.1                 | diameter 8 depth=5
↧ 5                             | linear 5
⌀5.5 THRU ⌴ ⌀10 ↧ 5             | diameter 5.5 through bore=10 bore_depth=5
⌀5.5 THRU\\n⌴ ⌀10 ↧ 5           | diameter 5.5 through bore=10 bore_depth=5
⌀5.5 THRU C'BORE ⌀10 X 5 DEEP   | diameter 5.5 through bore=10 bore_depth=5
⌀5.5 CBORE 10 DEEP 5            | diameter 5.5 bore=10 bore_depth=5
⌀5.5 COUNTERBORE ⌀10 DEPTH 5    | diameter 5.5 bore=10 bore_depth=5
⌀5.5 ↧ 12 ⌴ ⌀10 ↧ 5             | diameter 5.5 depth=12 bore=10 bore_depth=5
⌀4.5 THRU ⌵ ⌀9 × 90°            | diameter 4.5 through sink=9 sink_angle=90
⌀4.5 THRU\\n⌵ ⌀9, 90°           | diameter 4.5 through sink=9 sink_angle=90
⌀4.5 CSK ⌀9 X 82°               | diameter 4.5 sink=9 sink_angle=82
⌀4.5 C'SINK 9 X 90 DEG          | diameter 4.5 sink=9 sink_angle=90
⌀4.5 COUNTERSUNK 90° X ⌀9       | diameter 4.5 sink=9 sink_angle=90
⌀8 THRU SF ⌀16                  | diameter 8 through spot=16
⌀8 THRU SFACE ⌀16 ↧ 1           | diameter 8 through spot=16 spot_depth=1
⌀8 SPOTFACE 16                  | diameter 8 spot=16
⌀8 ⌴SF ⌀16                      | diameter 8 spot=16
6X ⌀5 EQ SP ON ⌀60 BC           | diameter 5 count=6 equally_spaced circle=60
6X ⌀5 EQUALLY SPACED            | diameter 5 count=6 equally_spaced
6X ⌀5 EQL SP ON 60 B.C.         | diameter 5 count=6 equally_spaced circle=60
6X ⌀5 ON A ⌀60 BOLT CIRCLE      | diameter 5 count=6 circle=60
6X ⌀5 ON PCD 60                 | diameter 5 count=6 circle=60
6X ⌀5 EQS                       | diameter 5 count=6 equally_spaced
6 × ⌀5 60 PCD                   | diameter 5 count=6 circle=60
M6                              | thread 6 thread=M6
M6 THRU                         | thread 6 thread=M6 through
M6×1                            | thread 6 thread=M6
M6 x 1.0 - 6H THRU              | thread 6 thread=M6 through
M5x0.8-6H THRU                  | thread 5 thread=M5 through
M6-6g                           | thread 6 thread=M6
M6 LH                           | thread 6 thread=M6
M10×1.25 ↧ 12                   | thread 10 thread=M10x1.25 depth=12
4X M5 ↧ 12                      | thread 5 thread=M5 count=4 depth=12
4 × M5 DEEP 12                  | thread 5 thread=M5 count=4 depth=12
4X M5 X 12 DEEP                 | thread 5 thread=M5 count=4 depth=12
TAP M5 ↧ 12                     | thread 5 thread=M5 depth=12
⌀4.2 ↧ 16 M5 ↧ 12               | thread 5 thread=M5 drill=4.2 drill_depth=16 depth=12 decimals=1
⌀4.2 ↧ 16\\nM5-6H ↧ 12          | thread 5 thread=M5 drill=4.2 drill_depth=16 depth=12 decimals=1
2X ⌀4.2 THRU, M5                | thread 5 thread=M5 drill=4.2 count=2 decimals=1 through
M5 THRU ⌴ ⌀10 ↧ 3               | thread 5 thread=M5 through bore=10 bore_depth=3
1/4-20                          | thread 6.35 thread=1/4-20
1/4-20 UNC                      | thread 6.35 thread=1/4-20
1/4-20 UNC-2B THRU              | thread 6.35 thread=1/4-20 through
.250-20 UNC-2B                  | thread 6.35 thread=1/4-20
2X #10-32 UNF-2B ↧ 0.5 in       | thread 4.826 thread=#10-32 count=2 depth=12.7
2×45°                           | chamfer 2 angle=45
2 X 45°                         | chamfer 2 angle=45
2 × 45 DEG                      | chamfer 2 angle=45
2x30°                           | chamfer 2 angle=30
45° × 2                         | chamfer 2 angle=45
45° X 2                         | chamfer 2 angle=45
C2                              | chamfer 2 angle=45
C 2                             | chamfer 2 angle=45
C0.5                            | chamfer 0.5 angle=45 decimals=1
4X C1                           | chamfer 1 angle=45 count=4
2 CHAM                          | chamfer 2 angle=45
CHAMFER 2                       | chamfer 2 angle=45
CHAM 2 X 45°                    | chamfer 2 angle=45
2 X 45° CHAMFER                 | chamfer 2 angle=45
1 ±0.2 × 45°                    | chamfer 1 angle=45 upper=0.2 lower=-0.2
2 × 1                           | chamfer 2 leg=1
2×1                             | chamfer 2 leg=1
2X 1×45°                        | chamfer 1 angle=45 count=2
4X 0.5 X 45°                    | chamfer 0.5 angle=45 count=4 decimals=1
5 × 12 (=60)                    | linear 12 count=5 total=60
5 × 15° (= 75°)                 | angle 15 count=5 total=75
BREAK ALL EDGES                 | note
ALL RADII R2                    | note
R                               | note
Ø0                              | note
⌀                               | note
R8 ⌴ Ø14 ↧ 5                    | note
35 ⌵ Ø9                         | note
M7 THRU                         | note
M5x3 THRU                       | note
12 H7/g6                        | note
600 H7                          | note
12 Q7                           | note
3 4 5                           | note
48 ±                            | note
SCALE 1:2                       | note
FULL R                          | note
Ø8 R6.5                         | note
2X 3X R5                        | note
"""

CASES = [line.split("|") for line in TABLE.strip().split("\n")]
FLAGS = ("through", "reference", "basic", "typical", "spherical", "square", "equally_spaced")
TEXTS = ("thread", "fit", "bound", "typed")


def test_the_table_is_long() -> None:
    assert len({text.strip() for text, _ in CASES}) == len(CASES) >= 150


@pytest.mark.parametrize(("text", "meaning"), [(a.strip().replace("\\n", "\n"), b.strip()) for a, b in CASES])
def test_it_is_understood(text: str, meaning: str) -> None:
    kind, *rest = meaning.split()
    r = parse(text)
    assert r.kind == kind, r
    if kind == "note":
        assert said(r) == "a note, not measured"
        return
    assert r.nominal == pytest.approx(float(rest.pop(0)), abs=1e-9)
    wanted: dict[str, object] = {"count": 1, "upper": 0.0, "lower": 0.0, "bound": "", "fit": ""}
    wanted |= dict.fromkeys(FLAGS, False)
    wanted |= dict.fromkeys(("depth", "bore", "sink", "spot", "circle", "total", "leg", "drill", "angle"))
    for word in rest:
        name, _, value = word.partition("=")
        wanted[name] = value if name in TEXTS else float(value) if value else True
    for name, value in wanted.items():
        found = getattr(r, name)
        assert found == (pytest.approx(value, abs=1e-9) if isinstance(value, float) else value), (name, r)
    assert r.toleranced == bool(r.upper or r.lower or r.bound)
    assert said(r)
