"""SVG as programs write it: sizes, parts used again, doctypes, damage."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import svgelements
from hypothesis import given
from hypothesis import strategies as st

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.legs import place
from slow_ribbon.imports.drawing import Drawing
from slow_ribbon.imports.options import Options
from slow_ribbon.imports.svg.read_svg import read_svg
from slow_ribbon.imports.svg.svg_tree import PLAIN_PATH

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" '
SHEET = HEAD + 'width="100mm" height="100mm" viewBox="0 0 100 100">'


def read(text: str, folder: Path, **options: str) -> Drawing:
    path = folder / "drawing.svg"
    path.write_text(text)
    return read_svg(path, Options.model_validate(options))


def lengths(drawing: Drawing) -> list[float]:
    """Return the length of every edge in mm; of curves, of all their spans."""
    found = np.linalg.norm(drawing.ends - drawing.begins, axis=1).tolist()
    for number, leg in drawing.curves.items():
        found[number] = sum(span.length for span in leg.spans(place(drawing.begins[number])))
    return [float(one) for one in found]


@pytest.mark.parametrize(
    ("head", "mm"),
    [
        ('width="100mm" height="100mm" viewBox="0 0 100 100"', 50.0),
        ('width="100mm" viewBox="0 0 200 100"', 25.0),
        ('height="4in" viewBox="0 0 200 101.6"', 50.0),
        ('width="21cm" height="29.7cm" viewBox="0 0 210 297"', 50.0),
        ('width="100mm" height="50mm" viewBox="0 0 100 100"', 25.0),
        ('width="100mm" height="50mm" viewBox="0 0 100 100" preserveAspectRatio="none"', 50.0),
        ('width="200" height="200" viewBox="0 0 100 100"', 100 * 25.4 / 96),
        ('width="100%" height="100%" viewBox="0 0 100 100"', 50 * 25.4 / 96),
        ("", 50 * 25.4 / 96),
    ],
)
def test_sizes_are_exact_whichever_sides_are_said(head: str, mm: float, tmp_path: Path) -> None:
    # After SVG 1.1, 7.8: one scale for both ways unless said otherwise; an inch is 25.4 mm and 96 pixels.
    assert lengths(read(f'{HEAD}{head}><path d="M0 0H50"/></svg>', tmp_path)) == [pytest.approx(mm, rel=1e-12)]
    bar = read(f'{HEAD}><rect width="30mm" height="2cm"/></svg>', tmp_path)
    assert sorted(lengths(bar)) == pytest.approx([20, 20, 30, 30], rel=1e-12)
    assert lengths(read(f'{HEAD}viewBox="0 0 9 9"><path d="M0 0H5"/></svg>', tmp_path, unit="ft")) == [pytest.approx(5 * 304.8)]


def test_parts_used_again_are_placed_and_what_is_not_drawn_is_reported(tmp_path: Path) -> None:
    symbol = '<symbol id="s" viewBox="0 0 10 10"><path d="M0 0H10"/></symbol>'
    uses = '<use xlink:href="#s" x="5" y="7" width="20" height="20"/><use href="#s" width="40" height="40" transform="rotate(90)"/>'
    drawing = read(f'{SHEET}{symbol}{uses}<use href="#nothing"/></svg>', tmp_path)
    assert lengths(drawing) == pytest.approx([20, 40], rel=1e-9)
    assert drawing.begins[0][:2] == pytest.approx([5, -7])
    assert drawing.ends[1][:2] == pytest.approx([0, -40], abs=1e-9)
    assert drawing.unread == {"uses of what is not in the file": 1}
    hidden = (
        '<marker id="m"><path d="M0 0H1"/></marker><mask id="k"><rect width="5" height="5"/></mask><defs><path id="d" d="M0 0H7"/></defs>'
    )
    drawing = read(f'{SHEET}{hidden}<g transform="translate(3 4)"><use href="#d"/></g></svg>', tmp_path)
    assert lengths(drawing) == pytest.approx([7])
    assert drawing.unread == {"markers": 1, "masks": 1}


def test_doctypes_that_stay_inside_the_file_are_read_and_no_others(tmp_path: Path) -> None:
    inside = '<!ENTITY ns "http://www.w3.org/2000/svg"><!ENTITY half "H5"><!ENTITY way "M0 0&half;0">'
    head = '<?xml version="1.0" encoding="utf-8"?><!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN" "svg11.dtd" ['
    assert lengths(read(f'{head}{inside}]><svg xmlns="&ns;" width="1mm" viewBox="0 0 1 1"><path d="&way;"/></svg>', tmp_path)) == [
        pytest.approx(50)
    ]
    plain = '<!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN" "http://www.w3.org/Graphics/SVG/1.1/DTD/svg11.dtd">'
    assert lengths(read(f'{plain}{SHEET}<path d="M0 0H5"/></svg>', tmp_path)) == [pytest.approx(5)]
    grown = '<!ENTITY a0 "x">' + "".join(f'<!ENTITY a{n} "{f"&a{n - 1};" * 10}">' for n in range(1, 12))
    around = '<!ENTITY a "&b;"><!ENTITY b "&a;">'
    outside = '<!ENTITY a11 SYSTEM "file:///etc/passwd">'
    for entities, used in ((grown, "a11"), (around, "a"), (outside, "a11")):
        with pytest.raises(Refused) as caught:
            read(f'<!DOCTYPE svg [{entities}]>{SHEET}<path d="M0 0H5"/><text>&{used};</text></svg>', tmp_path)
        assert caught.value.code == "xml-entities"


def test_one_bad_path_refuses_nothing_else(tmp_path: Path) -> None:
    bad = '<path d="M0 0H50 L x y"/><path d="M0 0 Q 5"/><circle r="abc"/><path transform="rotate(a)" d="M0 0H10"/>'
    drawing = read(f'{SHEET}{bad}<path d="M0 10H60"/></svg>', tmp_path)
    assert lengths(drawing) == pytest.approx([50, 60])
    assert drawing.unread == {"paths that break off in the middle": 1, "damaged shapes": 3}


_FIGURES = st.sampled_from(["1", "-2.5", ".5", "3e2", "1.5e-3", "+4", "-.25", "10.", "7.5.5", "--1", "1e"])
_BETWEEN = st.sampled_from([" ", ",", " , ", "", "\n", ",,"])
_COMMANDS = {"M": 2, "l": 2, "H": 1, "v": 1, "C": 6, "s": 4, "Q": 4, "t": 2, "z": 0, "A": 7}


@st.composite
def path_data(draw: st.DrawFn) -> str:
    """Return data of a path, mostly sound."""
    parts = ["M 0 0"]
    for letter in draw(st.lists(st.sampled_from(sorted(_COMMANDS)), max_size=4)):
        count = max(0, _COMMANDS[letter] * draw(st.integers(1, 2)) + draw(st.sampled_from([0, 0, 0, 0, -1, 1])))
        parts.append(letter + "".join(draw(_FIGURES) + draw(_BETWEEN) for _ in range(count)))
    return "".join(parts)


@given(path_data())
def test_a_path_that_is_plainly_sound_can_be_read(path: str) -> None:
    assert PLAIN_PATH.fullmatch("M0,0C1 2-3.5.5 4e1,5z")
    if PLAIN_PATH.fullmatch(path):
        svgelements.Path(path)
