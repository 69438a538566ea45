"""Lengths written as texts: sums, factors and shares of measures and of figures.

Terms
-----
measure
    a named length of the job (see ``measures``).
bare
    a number without a unit: beside + and − it is a length in the job's own unit, beside × and ÷
    a factor.

Names are written as they are, spaces allowed, whatever their case. The arithmetic is parsed and
kept safe by simpleeval; units are read by ``units.parse_length``'s own terms.
"""

from __future__ import annotations

import ast
import math
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Annotated, Any, Final

import simpleeval
from pydantic import StringConstraints

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.units import FARTHEST, System, length_terms, millimetres

MeasureName = Annotated[str, StringConstraints(pattern=r"^[A-Za-z][A-Za-z0-9 _]{0,59}$", strip_whitespace=True)]
MeasureText = Annotated[str, StringConstraints(min_length=1, max_length=400, strip_whitespace=True)]

#: So many texts are remembered as they were read, and what they came to.
_REMEMBERED: Final = 20_000
#: Words that stand for functions; no measure may have their name.
FUNCTIONS: Final = ("min", "max", "abs", "sqrt", "round")


@dataclass(frozen=True)
class Quantity:
    """A number of mm to the power ``power``; ``bare`` where it was written without a unit."""

    value: float
    power: int
    bare: bool = False


@dataclass(frozen=True)
class Worked:
    """A text worked out, mm, with the measures it uses."""

    length: float
    uses: frozenset[str]


class Lengths(dict[str, float]):
    """The lengths of a job's measures in mm by their ``key``; what was worked out with them is remembered."""

    def __init__(self, *lengths: Any) -> None:
        super().__init__(*lengths)
        self._worked: dict[tuple[str, System], Worked] = {}

    @cached_property
    def names(self) -> _Names:
        return _names_of(frozenset(self))

    def work_out(self, text: str, system: System = "mm") -> Worked:
        """Return the result of ``work_out`` with these measures. Raises ``Refused`` as it does."""
        known = self._worked.get((text, system))
        if known is None:
            known = self._worked[text, system] = work_out(text, self, system)
        return known


def key(name: str) -> str:
    """Return a name as names are compared: lower case, one space between words."""
    return _SPACES.sub(" ", name.strip().lower())


def work_out(text: str, measures: Mapping[str, float], system: System = "mm") -> Worked:
    """Return the length that a text says, given measures in mm by their ``key``.

    Raises ``Refused`` where it cannot be read, names a measure that is not there, or comes out
    as something else than a length (an area, a plain ratio); ``where`` is the 1-based place.

    >>> work_out("hall width / 2 - 18", {"hall width": 6000.0}).length
    2982.0
    """
    names = measures.names if isinstance(measures, Lengths) else _names_of(frozenset(measures))
    return _worked_out(text, _parsed(text, names, system), measures, system)


def _worked_out(text: str, parsed: _Parsed, measures: Mapping[str, float], system: System) -> Worked:
    """Return the value of a parsed text. Raises ``Refused`` as ``work_out``."""
    quantities = tuple(Quantity(measures[part], 1) if isinstance(part, str) else part for part in parsed.terms)
    return Worked(_evaluated(text, parsed.source, quantities, system), parsed.uses)


@lru_cache(maxsize=_REMEMBERED)
def _evaluated(text: str, source: str, quantities: tuple[Quantity, ...], system: System) -> float:
    """Return the length of an expression of quantities that are named in it by their number, mm. Raises ``Refused``."""
    unit = millimetres(1.0, system)
    names = {f"q{number}": quantity for number, quantity in enumerate(quantities)}
    evaluator = simpleeval.SimpleEval(operators=_operators(unit), functions=_functions(unit), names=names)
    evaluator.nodes = {kind: evaluator.nodes[kind] for kind in _NODES if kind in evaluator.nodes}
    evaluator.nodes[ast.Constant] = _constant
    try:
        found = evaluator.eval(source)
    except Refused:
        raise
    except ZeroDivisionError as error:
        raise Refused(f"{text!r} divides by zero.", "1", "measure") from error
    except (simpleeval.InvalidExpression, SyntaxError, ValueError, TypeError, OverflowError, RecursionError, MemoryError) as error:
        raise Refused(f"{text!r} cannot be worked out: {_reason(error)}. {_ADVICE}", "1", "measure") from error
    if not isinstance(found, Quantity):
        raise Refused(f"{text!r} is not a length. {_ADVICE}", "1", "measure")
    length = found.value * unit if found.bare else found.value
    if not found.bare and found.power != 1:
        kind = {0: "a ratio", 2: "an area", 3: "a volume"}.get(found.power, "no length")
        raise Refused(f"{text!r} gives {kind}; a length is needed here.", "1", "measure-kind")
    if not math.isfinite(length) or abs(length) > FARTHEST:
        raise Refused(f"{text!r} is longer than ten thousand kilometres: check the figures.", "1", "length")
    return length


_ADVICE = "Write for example 1200, 1.2 m + 18, or hall width / 2 - 18."
_NODES = (ast.Expression, ast.Expr, ast.Constant, ast.UnaryOp, ast.BinOp, ast.Name, ast.Call)


@dataclass(frozen=True, eq=False)
class _Names:
    """Names of measures, by their ``key``, and how long they are, the longest first: so "hall width" is not read as "hall"."""

    known: frozenset[str]
    sizes: tuple[int, ...]

    def at(self, letters: str) -> str | None:
        """Return the longest name that letters, as ``key`` writes them, begin with and that no other word goes on from."""
        for size in self.sizes:
            if letters[:size] in self.known and not (letters[size : size + 1].isalnum() and letters[size : size + 1].isascii()):
                return letters[:size]
        return None


@lru_cache(maxsize=64)
def _names_of(known: frozenset[str]) -> _Names:
    return _Names(known, tuple(sorted({len(name) for name in known}, reverse=True)))


@dataclass(frozen=True)
class _Parsed:
    """A text as an expression of quantities by their number: each is one that was written, or a measure by its ``key``."""

    source: str
    terms: tuple[Quantity | str, ...]
    uses: frozenset[str]


_SPACES: Final = re.compile(r"[\s_]+")
_WORD: Final = re.compile(r"[A-Za-z_][A-Za-z0-9_]*")


@lru_cache(maxsize=_REMEMBERED)
def _parsed(text: str, names: _Names, system: System) -> _Parsed:
    """Return a text taken apart. Raises ``Refused`` at the place where it cannot be read, or for a measure that is not there."""
    terms: list[Quantity | str] = []
    parts: list[str] = []
    position = 0
    while position < len(text):
        look_up()
        character = text[position]
        if character.isspace() or character in "+-*/()×÷·,−–":
            parts.append({"×": "*", "·": "*", "÷": "/", "−": "-", "–": "-"}.get(character, character))
            position += 1
            continue
        word = _WORD.match(text, position)
        name = names.at(_SPACES.sub(" ", text[position:].lower())) if word and character != "_" else None
        if name is not None:
            terms.append(name)
            parts.append(f" q{len(terms) - 1} ")
            # As many words as the name has, with whatever space stands between them.
            position += len(_reach(name, text[position:]))
            continue
        term = length_terms(text, position, system)
        if term is not None:
            value, with_unit, position = term
            terms.append(Quantity(value, 1) if with_unit else Quantity(value / millimetres(1.0, system), 0, bare=True))
            parts.append(f" q{len(terms) - 1} ")
            continue
        if word and word.group().lower() in FUNCTIONS:
            parts.append(word.group().lower())
            position = word.end()
            continue
        if word:
            raise Refused(
                f"There is no measure {word.group()!r} in this job, at place {position + 1} of {text!r}: add it, or choose another.",
                str(position + 1),
                "unknown-measure",
            )
        raise Refused(f"{text!r} cannot be read at place {position + 1}: {character!r}. {_ADVICE}", str(position + 1), "measure")
    return _Parsed("".join(parts).strip(), tuple(terms), frozenset(term for term in terms if isinstance(term, str)))


def _reach(name: str, letters: str) -> str:
    """Return the beginning of some letters that is a name as it is written there."""
    at = 0
    for part in name:
        if part == " ":
            spaces = _SPACES.match(letters, at)
            at = spaces.end() if spaces else at + 1
        else:
            at += 1
    return letters[:at]


def _constant(node: ast.Constant) -> Quantity:
    # Every number was given a name before; what is left is no number of ours.
    raise Refused(f"{node.value!r} is not allowed here.", "1", "measure")


def _settled(value: Quantity, unit: float) -> Quantity:
    return Quantity(value.value * unit, 1) if value.bare else value


def _alike(a: Quantity, b: Quantity, unit: float) -> tuple[Quantity, Quantity]:
    if a.bare and b.bare:
        return a, b
    a, b = _settled(a, unit), _settled(b, unit)
    if a.power != b.power:
        kinds = {0: "a plain number", 1: "a length", 2: "an area"}
        message = f"{kinds.get(a.power, 'something else')} and {kinds.get(b.power, 'something else')}"
        raise Refused(f"Here {message} are added or compared: only quantities of one kind can be.", "1", "measure-kind")
    return a, b


def _operators(unit: float) -> dict[type, Callable[..., Quantity]]:
    def add(a: Quantity, b: Quantity) -> Quantity:
        a, b = _alike(a, b, unit)
        return Quantity(a.value + b.value, a.power, a.bare)

    def subtract(a: Quantity, b: Quantity) -> Quantity:
        a, b = _alike(a, b, unit)
        return Quantity(a.value - b.value, a.power, a.bare)

    def times(a: Quantity, b: Quantity) -> Quantity:
        return Quantity(a.value * b.value, a.power + b.power, a.bare and b.bare)

    def over(a: Quantity, b: Quantity) -> Quantity:
        return Quantity(a.value / b.value, a.power - b.power, a.bare and b.bare)

    return {
        ast.Add: add,
        ast.Sub: subtract,
        ast.Mult: times,
        ast.Div: over,
        ast.UAdd: lambda a: a,
        ast.USub: lambda a: Quantity(-a.value, a.power, a.bare),
    }


def _functions(unit: float) -> dict[str, Callable[..., Quantity]]:
    def most(*all: Quantity) -> Quantity:
        return max(_all_alike(all, unit), key=lambda one: one.value)

    def least(*all: Quantity) -> Quantity:
        return min(_all_alike(all, unit), key=lambda one: one.value)

    def root(a: Quantity) -> Quantity:
        if a.value < 0 or a.power % 2:
            raise Refused("Only numbers and areas of zero or more have a root.", "1", "measure-kind")
        return Quantity(math.sqrt(a.value), a.power // 2, a.bare)

    def nearest(a: Quantity, step: Quantity | None = None) -> Quantity:
        if step is None:
            return Quantity(float(round(a.value)), a.power, a.bare)
        a, step = _alike(a, step, unit)
        return Quantity(round(a.value / step.value) * step.value, a.power, a.bare)

    return {"min": least, "max": most, "sqrt": root, "round": nearest, "abs": lambda a: Quantity(abs(a.value), a.power, a.bare)}


def _all_alike(all: Sequence[Quantity], unit: float) -> list[Quantity]:
    if any(not one.bare for one in all):
        all = [_settled(one, unit) for one in all]
    for one in all[1:]:
        _alike(all[0], one, unit)
    return list(all)


def _reason(error: BaseException) -> str:
    if isinstance(error, SyntaxError):
        return "something in it is missing or superfluous"
    if isinstance(error, RecursionError | MemoryError):
        return "it is nested too deeply"
    return "it uses something that is not arithmetic"
