"""A sample piece of a section, as it would lie on a workshop's shelf: three short legs with an internal and an external corner."""

from __future__ import annotations

from typing import Final

from slow_ribbon.core.job import Job
from slow_ribbon.core.lines import Line, StraightLeg
from slow_ribbon.core.runs import Run
from slow_ribbon.core.sections import Section, SectionBody, section_shape
from slow_ribbon.core.solve import SolvedRun, solve

#: How long its legs are, as many times the greater of the section's sizes, and more by the datum's way from it.
_LEGS: Final = 2.2


def sample_run(section: SectionBody) -> SolvedRun:
    """Return the sample of a section, about the origin. Raises ``Refused`` if the outline is not valid."""
    named = Section(id="S2", **{name: getattr(section, name) for name in SectionBody.model_fields})
    section_shape.keep(named, section_shape(section))
    away = max(abs(getattr(section.datum, "x", 0.0)), abs(getattr(section.datum, "y", 0.0)))
    reach = _LEGS * max(section.width, section.height) + away
    ends = [(0.0, 0.0), (reach, 0.0), (reach, reach), (2 * reach, reach)]
    points = [(x - reach, y - reach / 2, 0.0) for x, y in ends]
    line = Line(id="L1", name="Sample", start=points[0], legs=tuple(StraightLeg(to=point) for point in points[1:]))
    job = Job(name="Sample", lines=(line,), sections=(named,), runs=(Run(id="R3", name="Sample", tag="A", line="L1", section="S2"),))
    return solve(job).runs["R3"]
