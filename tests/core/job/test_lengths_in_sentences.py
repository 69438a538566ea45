"""Lengths in sentences and lengths as typed: in the job's units, and asked about where they could mean either."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import Length, figure, plain, text_parts
from slow_ribbon.core.kernel.units import Units, in_units, parse_length

FEET = Units(system="ft-in", fineness=1 / 16)


#: Of names too, that have symbols of a font in them: the characters that figures stand between among them.
TEXT = st.one_of(st.text(st.characters(exclude_categories=["Co", "Cs"])), st.text("\ue000\ue001|-.aé"))


@given(st.lists(st.one_of(TEXT, st.floats(-1e6, 1e6)), max_size=6))
def test_what_is_put_into_a_sentence_comes_out_again(parts: list[str | float]) -> None:
    text = "".join(part if isinstance(part, str) else figure(part, 2) for part in parts)
    assert [part.mm for part in text_parts(text) if isinstance(part, Length)] == [part for part in parts if not isinstance(part, str)]
    assert "".join(part for part in text_parts(text) if isinstance(part, str)) == "".join(part for part in parts if isinstance(part, str))


@pytest.mark.parametrize(
    ("mm", "places", "millimetres", "metres", "feet"),
    [
        (12.5, 1, "12.5 mm", "0.0125 m", '1/2"'),
        (0.4, 2, "0.4 mm", "0.0004 m", "0.0157 in"),
        (-0.0001, 1, "0 mm", "0 m", "0 in"),
        (914.4, 0, "914 mm", "0.914 m", "3' 0\""),
        (0, 1, "0 mm", "0 m", '0"'),
    ],
)
def test_lengths_are_written_in_the_units_of_the_job(mm: float, places: int, millimetres: str, metres: str, feet: str) -> None:
    text = f"It is {figure(mm, places)} off."
    assert plain(text) == in_units(text, Units()) == f"It is {millimetres} off."
    assert in_units(text, Units(system="m", fineness=0.001)) == f"It is {metres} off."
    assert in_units(text, FEET) == f"It is {feet} off."


def test_a_refusal_reads_in_millimetres_and_keeps_its_figures() -> None:
    refused = Refused(f"It is {figure(25.4)} too long.", "length")
    assert str(refused) == "It is 25.4 mm too long."
    assert in_units(refused.what, FEET) == 'It is 1" too long.'


@pytest.mark.parametrize("text", ["1'500", "12'345'678", "1'500 + 20", "2 m + 1'000"])
def test_a_mark_that_may_set_thousands_apart_is_asked_about(text: str) -> None:
    for system in ("mm", "m", "ft-in"):
        with pytest.raises(Refused, match="or .* feet and") as caught:
            parse_length(text, system)
        assert caught.value.code == "length-either"


@pytest.mark.parametrize(
    ("text", "mm"), [("1'500\"", 304.8 + 12_700), ("5'11", 5 * 304.8 + 11 * 25.4), ("1' 3\"", 381), ("1500", 1500), ("1 500", 1500)]
)
def test_what_can_mean_only_one_thing_is_read(text: str, mm: float) -> None:
    assert parse_length(text) == pytest.approx(mm)
