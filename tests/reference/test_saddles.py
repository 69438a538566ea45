"""The saddle of a tube that is scribed to another: ordinates of the pattern that is wrapped round it, as pipe fitters set it out."""

from __future__ import annotations

import math

import numpy as np
import pytest

from slow_ribbon.core.cutting import patterns_of
from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddRuns, AddSection, apply_all
from slow_ribbon.core.lines import line_body
from slow_ribbon.core.runs import FacingSide, Placing, ScribedTo
from slow_ribbon.core.sections import SectionBody
from slow_ribbon.core.sections.library import from_library
from slow_ribbon.core.solve import solve


@pytest.mark.parametrize("begins", [False, True])
@pytest.mark.parametrize(("branch", "header", "angle"), [(48.3, 48.3, 90), (48.3, 114.3, 90), (48.3, 60.3, 60), (33.7, 48.3, 45)])
def test_the_ordinates_of_a_saddle(branch: float, header: float, angle: float, begins: bool) -> None:
    """Layouts of pipe fitters' handbooks (memory): at an angle v round the branch its end is back from where the lines cross by

    (√(R² − r²·sin²v) − r·cos v·cos A)/sin A, with the outside radii R of the header and r of the branch, and A between the two.
    """
    small, large = branch / 2, header / 2
    turn = math.radians(angle)
    far = (1000 * math.cos(turn), 1000 * math.sin(turn), 0.0)
    points = [(0, 0, 0), far] if begins else [far, (0, 0, 0)]
    tube = SectionBody.model_validate(from_library("tube-round").model_dump())
    tubes = [tube.model_copy(update={"width": size, "height": size}) for size in (header, branch)]
    placing = Placing(facing=FacingSide(kind="right"))
    edits = [
        AddLines(lines=(line_body([(-500, 0, 0), (500, 0, 0)], False, "Header"), line_body(points, False, "Branch"))),
        *(AddSection(section=one) for one in tubes),
        AddRuns(section="S3", lines=("L1",), placing=placing),
        AddRuns(section="S4", lines=("L2",), placing=placing, **{"first_end" if begins else "last_end": ScribedTo(to="R5")}),
    ]
    solved = solve(apply_all(Job(name="Job"), edits).job)
    (pattern,) = patterns_of(solved)
    assert pattern.height == pytest.approx(math.pi * branch)
    assert pattern.seen == "outside, wrapped round it from the top"
    # From the top, v is a quarter on; to the left of travel first, which is away from the header's +x where the branch begins there.
    toward = np.sin(pattern.face[:, 1] / small) * (1.0 if begins else -1.0)
    level = np.sqrt(np.maximum(large**2 - small**2 * (1 - toward**2), 0.0))
    ordinates = (level - small * toward * math.cos(turn)) / math.sin(turn)
    along = np.abs(pattern.face[:, 0])
    deepest = int(level.argmax())
    away = np.abs(along - along[deepest] - (ordinates - ordinates[deepest]))
    # Where equal tubes run out into one another the line is upright, and a face drawn to 2 µm is as far along as a third of a millimetre.
    assert away[level > 3].max() < 0.02
    assert away.max() < 0.4
    assert solved.runs["R6"].cuts.long_points[0] == pytest.approx(1000 - ordinates.min(), abs=0.4)
