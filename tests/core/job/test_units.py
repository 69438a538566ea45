"""Lengths as typed and shown; the interface's copy of the showing is held to the same figures."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.units import Units, format_length, parse_length

WEB = Path(__file__).parents[3] / "web"


@pytest.mark.parametrize(
    ("text", "system", "mm"),
    [
        ("1200", "mm", 1200), ("1.2 m", "mm", 1200), ("4' 3-1/2\"", "mm", 1308.1), ("51.5 in", "mm", 1308.1), ("1.2", "m", 1200),
        ("6", "ft-in", 152.4), ("4'-6\"", "ft-in", 1371.6), ("4' - 6\"", "ft-in", 1066.8), ("3 1/2", "ft-in", 88.9), ("1/2\"", "mm", 12.7),
        ("1200 + 3'", "mm", 2114.4), ("2.4m-18", "mm", 2382), ("1 200", "mm", 1200), ("1\u2009200.5", "mm", 1200.5), ("-50", "mm", -50),
        ("−50", "mm", -50), ("12 cm", "mm", 120), ("5’ 6”", "mm", 1676.4), (".5 m", "mm", 500),
    ],
)  # fmt: skip
def test_typed_lengths(text: str, system: str, mm: float) -> None:
    assert parse_length(text, system) == pytest.approx(mm)  # type: ignore[arg-type]  # the cases name systems


@pytest.mark.parametrize(
    ("text", "place"),
    [("abc", 1), ("12 +", 5), ("1,200", 2), ("1e5", 2), ("4' 1200mm", 4), ("1/0", 2), ("", 1), ("nan", 1), ("12 mm 5", 7), ("1e", 2)],
)
def test_what_is_no_length_is_refused_at_its_place(text: str, place: int) -> None:
    with pytest.raises(Refused) as refused:
        parse_length(text)
    assert refused.value.where == str(place)


def test_lengths_past_ten_thousand_kilometres_are_refused() -> None:
    with pytest.raises(Refused, match="ten thousand kilometres"):
        parse_length("99999999 m")


SYSTEMS = [("mm", 1), ("mm", 0.5), ("mm", 0.1), ("m", 1), ("m", 0.1), ("ft-in", 1 / 16), ("ft-in", 1 / 32)]


@given(st.floats(-1e7, 1e7), st.sampled_from(SYSTEMS))
def test_shown_lengths_read_back_within_half_a_step(mm: float, way: tuple[str, float]) -> None:
    units = Units.model_validate({"system": way[0], "fineness": way[1]})
    shown = format_length(mm, units)
    step = way[1] * (25.4 if way[0] == "ft-in" else 1)
    negative = shown.startswith("-") and way[0] == "ft-in"
    back = -parse_length(shown[1:], units.system) if negative else parse_length(shown, units.system)
    assert abs(back - mm) <= step / 2 + 1e-6 * abs(mm) + 1e-6


def test_the_interface_shows_lengths_as_the_core_does(tmp_path: Path) -> None:
    lengths = [0, 0.25, 0.5, 12.7, 304.8, 304.7, 999.5, 1234.5, 1234567.4, -0.2, -3000, 25.4 / 32, 1e7 / 3, 2.5, 0.05, 1 / 3]
    cases: list[tuple[float, dict[str, object]]] = [
        (mm, {"system": system, "fineness": fineness}) for mm in lengths for system, fineness in SYSTEMS
    ]
    out = tmp_path / "figures.mjs"
    build = ["npx", "esbuild", "src/ui/figures.ts", "--format=esm", f"--outfile={out}"]
    subprocess.run(build, cwd=WEB, check=True, capture_output=True)
    program = (
        f"import {{formatLength}} from '{out}'; console.log(JSON.stringify({json.dumps(cases)}.map(([mm, u]) => formatLength(mm, u))))"
    )
    answer = subprocess.run(["node", "--input-type=module", "-e", program], check=True, capture_output=True, text=True)
    ours = [format_length(mm, Units.model_validate(units)) for mm, units in cases]
    assert json.loads(answer.stdout) == ours
