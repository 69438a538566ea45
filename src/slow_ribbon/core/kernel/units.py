"""Lengths as people type and read them.

Terms
-----
system
    how a job writes its lengths: ``"mm"``, ``"m"`` or ``"ft-in"``.
fineness
    the step that shown lengths are rounded to, in millimetres (1, 0.5, 0.1) or, in feet and
    inches, in inches (1/16, 1/32).

Nothing is rounded inside: a length is millimetres in float64 until it is shown.
One inch is 25.4 mm exactly (international yard and pound agreement, 1959).
"""

from __future__ import annotations

import math
import re
from typing import Annotated, Final, Literal

from pydantic import BaseModel, ConfigDict, Field

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import Length, decimal, plain
from slow_ribbon.core.kernel.tolerances import NEARLY_WHOLE

System = Literal["mm", "m", "ft-in"]

INCH: Final = 25.4
FOOT: Final = 12 * INCH
#: Points nearer than a thousandth of a unit are the same point (common practice, no source).
WELD: Final = 1e-3
#: Coordinates past ten thousand kilometres are a mistake in the drawing's units.
FARTHEST: Final = 1e10

_PER_UNIT: Final[dict[str, float]] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": INCH, '"': INCH}
#: What a bare number means in a job of each system.
_BARE: Final[dict[str, float]] = {"mm": 1.0, "m": 1000.0, "ft-in": INCH}

_NUMBER = r"(?:\d{1,3}(?:[ \u2009\u00a0\u202f]\d{3})+(?:\.\d*)?|\d+(?:\.\d*)?|\.\d+)"
_MIXED = rf"(?:\d+(?:-|\ +)\d+\s*/\s*\d+|\d+\s*/\s*\d+|{_NUMBER})"
_TERM = re.compile(
    rf"""(?P<feet>{_NUMBER})\s*(?:'|ft)(?:(?:-|\s*)(?P<inches>{_MIXED})(?:\s*(?:"|in)|(?!\s*[a-z'\d.])))?
       | (?P<plain>{_MIXED})\s*(?P<unit>mm|cm|m|in|")?""",
    re.VERBOSE | re.IGNORECASE,
)
_QUOTES = str.maketrans({"’": "'", "′": "'", "”": '"', "″": '"', "−": "-", "–": "-"})


class Units(BaseModel):
    """How a job writes lengths."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    system: System = "mm"
    fineness: Annotated[float, Field(gt=0, le=1)] = 1.0
    """Step of shown lengths: millimetres, or inches where ``system`` is ``"ft-in"``."""


def parse_length(text: str, system: System = "mm") -> float:
    """Return the length that ``text`` says, in millimetres.

    Accepts ``1200``, ``1.2 m``, ``4' 3-1/2"``, ``51.5 in`` and sums and differences of them
    (``1200 + 3'``, ``2.4 m - 18``). A bare number is in the job's own unit: millimetres,
    metres, or inches for ``"ft-in"``. Thousands may be set apart by a space, never by a comma,
    which half the world reads as the decimal point.

    Raises ``Refused`` where the text is no length; ``where`` is the 1-based place in it.

    >>> parse_length("2.4 m - 18"), parse_length("1200 + 2 in"), parse_length("51.5", "ft-in")
    (2382.0, 1250.8, 1308.1)
    """
    source = text.translate(_QUOTES)
    if not source.strip():
        raise Refused("A length is missing here: type a figure such as 1200 or 1.2 m.", "1", "length")
    position, total = 0, 0.0
    while True:
        sign_found = re.compile(r"\s*([+-]?)\s*").match(source, position)
        assert sign_found is not None  # the pattern matches the empty string
        if position > 0 and not sign_found.group(1):
            break
        position = sign_found.end()
        term = _TERM.match(source, position)
        if term is None:
            raise _not_a_length(text, position)
        total += (-1.0 if sign_found.group(1) == "-" else 1.0) * _length_of(term, system, text)
        position = term.end()
    if source[position:].strip():
        raise _not_a_length(text, position)
    if not math.isfinite(total) or abs(total) > FARTHEST:
        raise Refused(f"{text!r} is longer than ten thousand kilometres: check the figure.", "1", "length")
    return total


def millimetres(bare: float, system: System) -> float:
    """Return the length in mm that a bare number means in a job of a system."""
    return bare * _BARE[system]


def length_terms(text: str, position: int, system: System = "mm") -> tuple[float, bool, int] | None:
    """Return one length in a text at a place: mm, whether it has a unit of its own, and where it ends; ``None`` where none stands.

    Raises ``Refused`` for a fraction over zero.
    """
    term = _TERM.match(text.translate(_QUOTES), position)
    if term is None:
        return None
    plain = term.group("plain")
    # 1/2 between measures is a division like any other; only with a whole number or a unit is it a fraction.
    if plain and "/" in plain and not term.group("unit") and not re.search(r"\d[-\s]+\d+\s*/", plain):
        number = re.compile(_NUMBER).match(text, position)
        assert number is not None  # the term begins with one
        return _number(number.group(), text) * _BARE[system], False, number.end()
    return _length_of(term, system, text), bool(term.group("feet") or term.group("unit")), term.end()


#: A mark that sets thousands apart in half of Europe and means feet in America.
_EITHER: Final = re.compile(r"(\d{1,3}(?:'\d{3})+)(?!\d)\s*(?!\s*(?:\"|in))")


def _length_of(term: re.Match[str], system: System, text: str) -> float:
    if term.group("feet"):
        either = _EITHER.match(term.string, term.start())
        if either:
            figure = either.group(1)
            feet, _, rest = figure.partition("'")
            raise Refused(
                f"Is {figure} {figure.replace(chr(39), '')}, or {feet} feet and {rest} inches? Write {figure.replace(chr(39), '')}, "
                f"or {feet}' {rest}\" with the mark of inches.",
                str(term.start() + 1),
                "length-either",
            )
        inches = term.group("inches")
        return _number(term.group("feet"), text) * FOOT + (_number(inches, text) * INCH if inches else 0.0)
    unit = (term.group("unit") or "").lower()
    return _number(term.group("plain"), text) * (_PER_UNIT[unit] if unit else _BARE[system])


def _number(written: str, text: str) -> float:
    """Return the value of a number, a fraction, or a whole number with a fraction."""
    if "/" not in written:
        return float(re.sub(r"\s", "", written))
    *whole, fraction = re.split(r"(?<=\d)[-\s]+(?=\d+\s*/)", written)
    numerator, denominator = fraction.split("/")
    if int(denominator) == 0:
        raise Refused(f"A fraction in {text!r} has zero under the line.", str(text.find("/") + 1), "length")
    return int(whole[0] if whole else 0) + int(numerator) / int(denominator)


def _not_a_length(text: str, position: int) -> Refused:
    while position < len(text) and text[position].isspace():
        position += 1
    found = f"at place {position + 1} stands {text[position : position + 8]!r}" if position < len(text) else "it breaks off"
    advice = "Write for example 1200, 1.2 m, 4' 3-1/2\" or 51.5 in."
    return Refused(f"{text!r} is not a length: {found}. {advice}", str(position + 1), "length")


def format_length(millimetres: float, units: Units | None = None) -> str:
    """Return a length as the job shows it, without a unit for millimetres and metres.

    Rounded to the job's fineness, halves away from zero; thousands are set apart by a thin
    space. Feet and inches are written ``4' 3-1/2"``.
    """
    units = units or Units()
    if units.system == "ft-in":
        return _feet_and_inches(millimetres, units.fineness)
    steps = _round_half_away(millimetres / units.fineness)
    decimals = 0 if units.fineness >= 1 else 1
    value = steps * units.fineness
    if units.system == "m":
        return f"{value / 1000 + 0.0:.{decimals + 3}f}"
    return f"{value + 0.0:,.{decimals}f}".replace(",", "\u2009")


_POUND: Final = 0.45359237


def format_weight(kilograms: float, units: Units) -> str:
    """Return a weight as the job shows it, in kilograms or pounds, without its unit.

    >>> format_weight(1234.567, Units()), format_weight(1, Units(system="ft-in"))
    ('1\u2009234.57', '2.20')
    """
    value = kilograms / _POUND if units.system == "ft-in" else kilograms
    return f"{value + 0.0:,.2f}".replace(",", "\u2009")


def format_area(square_millimetres: float, units: Units) -> str:
    """Return an area to be painted as the job shows it, in square metres or square feet, without its unit.

    >>> format_area(1.5e6, Units()), format_area(92903.04, Units(system="ft-in"))
    ('1.500', '1.00')
    """
    if units.system == "ft-in":
        return f"{square_millimetres / (12 * INCH) ** 2 + 0.0:,.2f}".replace(",", "\u2009")
    return f"{square_millimetres * 1e-6 + 0.0:,.3f}".replace(",", "\u2009")


def weight_unit(units: Units) -> str:
    return "lb" if units.system == "ft-in" else "kg"


def area_unit(units: Units) -> str:
    return "ft²" if units.system == "ft-in" else "m²"


def in_units(text: str, units: Units) -> str:
    """Return a sentence with the lengths in it written in a job's units, each with its unit.

    >>> from slow_ribbon.core.kernel.figures import figure
    >>> print(in_units(f"It is {figure(1066.8)} long.", Units(system="ft-in")))
    It is 3' 6" long.
    """

    def write(one: Length) -> str:
        if units.system == "m":
            return f"{decimal(one.mm / 1000, one.places + 3)} m"
        if units.system == "mm":
            return f"{decimal(one.mm, one.places)} mm"
        # What is less than the finest step is written in decimals, not as nothing.
        fine = one.mm == 0 or abs(one.mm) >= INCH / 32
        return _feet_and_inches(one.mm, 1 / 32) if fine else f"{decimal(one.mm / INCH, 4)} in"

    return plain(text, write)


def _round_half_away(value: float) -> float:
    # The nudge keeps 0.5 a half after division by a fineness such as 0.1.
    return math.copysign(math.floor(abs(value) + 0.5 + NEARLY_WHOLE), value) + 0.0


def _feet_and_inches(millimetres: float, fineness: float) -> str:
    parts = round(1 / fineness)
    steps = int(_round_half_away(millimetres / INCH * parts))
    sign = "-" if steps < 0 else ""
    steps = abs(steps)
    feet, steps = divmod(steps, 12 * parts)
    inches, over = divmod(steps, parts)
    fraction = ""
    if over:
        shrink = math.gcd(over, parts)
        fraction = f"{over // shrink}/{parts // shrink}"
    if over and inches:
        shown = f'{inches}-{fraction}"'
    else:
        shown = f'{fraction or inches}"'
    return f"{sign}{feet}' {shown}" if feet else f"{sign}{shown}"
