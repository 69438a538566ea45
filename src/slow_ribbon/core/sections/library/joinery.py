"""Outlines of the joiner's, the mason's and the fencer's trade, and of fittings: drawn for this project as straights, arcs and curves.

Every outline is drawn with its back at x = 0 and its foot at y = 0, facing right. Sizes and
shapes are our own; "tan of a quarter of the angle" is how arcs are drawn (``OutlinePen.arc``).
"""

from __future__ import annotations

import math
from collections.abc import Iterator

from slow_ribbon.core.sections.document.section import EdgeBed, SideBed
from slow_ribbon.core.sections.library.drawing_board import QUARTER, BoardOutline, Entry, entry, rectangle, rounded, rounded_rectangle
from slow_ribbon.core.sections.outline.outline import Outline, OutlinePen, circle


def _chamfered_skirting() -> Outline:
    return OutlinePen(0, 0).line(18, 0).line(18, 127).line(8, 145).line(0, 145).close()


def _ogee_skirting() -> Outline:
    # A straight face, a fillet, then a hollow and a round up to a narrow head.
    pen = OutlinePen(0, 0).line(20, 0).line(20, 116).line(17, 116)
    return pen.arc(12, 128, -0.30).arc(6, 140, 0.30).line(6, 145).line(0, 145).close()


def _bull_skirting() -> Outline:
    return OutlinePen(0, 0).line(15, 0).line(15, 88).arc(3, 100, QUARTER).line(0, 100).close()


def _dado_rail() -> Outline:
    pen = OutlinePen(0, 0).line(6, 0).line(6, 8).arc(14, 22, -QUARTER * 0.8).line(18, 22).arc(18, 40, 1.0)
    return pen.line(12, 40).arc(6, 50, -QUARTER).line(6, 58).line(0, 58).close()


def _picture_rail() -> Outline:
    # A hook's seat at the head: a round nose, of a radius of 65/14 that is at its widest where it begins, a hollow behind it to hang from.
    pen = OutlinePen(0, 0).line(8, 0).line(8, 10).arc(16, 22, -0.35).line(16, 30)
    nose = math.tan(math.atan2(4, 13 - 20 + 65 / 14) / 4)
    return pen.arc(20, 38, 0.2).arc(13, 42, nose).arc(8, 37, -0.45).line(5, 37).line(5, 44).line(0, 44).close()


def _sprung_cornice() -> Outline:
    # Edge 0 is the sprung back, 38° from the wall; short flats touch the wall and the ceiling.
    rise = 90.0
    back = rise * math.tan(math.radians(38))
    pen = OutlinePen(back, 10 + rise).line(0, 10).line(0, 0).line(10, 0).line(10, 6)
    pen.arc(34, 30, -0.35).line(34, 36).line(40, 36).arc(70, 78, 0.30).line(70, 84)
    return pen.line(82, 84).line(82, 10 + rise).close()


def _moulded_handrail() -> Outline:
    # A mopstick's head on a grooved neck, 58 wide and 44 high.
    pen = OutlinePen(16, 0).line(42, 0).line(42, 8).arc(50, 16, -QUARTER)
    pen.arc(50, 36, 0.75).arc(8, 36, 5 / 21).arc(8, 16, 0.75).arc(16, 8, -QUARTER)
    return pen.close()


def _coping() -> Outline:
    # Weathered both ways, with a throat under each overhang.
    pen = OutlinePen(0, 0).line(14, 0).arc(26, 0, -1.0).line(274, 0).arc(286, 0, -1.0)
    return pen.line(300, 0).line(300, 50).line(150, 75).line(0, 50).close()


def _fence_rail() -> Outline:
    # A level foot and a sloped head that sheds water, level for a moment where its round begins.
    return OutlinePen(0, 0).line(38, 0).line(38, 74).line(6, 87).arc(0, 82, math.tan(math.atan2(6, 1.1) / 4)).close()


def _architrave() -> Outline:
    pen = OutlinePen(0, 0).line(12, 0).arc(18, 6, QUARTER).line(18, 40).line(22, 40).line(22, 52).arc(14, 60, QUARTER)
    return pen.line(14, 69).line(0, 69).close()


def _square_tube() -> tuple[Outline, tuple[Outline, ...]]:
    return rounded_rectangle(40, 40, 6), (rounded_rectangle(34, 34, 3, (3, 3)),)


def _torus_skirting() -> Outline:
    return OutlinePen(0, 0).line(20, 0).line(20, 128).line(14, 128).arc(14, 144, 0.8).line(9, 144).line(0, 144).close()


def _ovolo_skirting() -> Outline:
    # A quarter round between two fillets.
    return OutlinePen(0, 0).line(18, 0).line(18, 100).line(15, 100).arc(5, 112, QUARTER).line(5, 115).line(0, 115).close()


def _square_skirting() -> Outline:
    return rounded([(0, 0, 0), (15, 0, 0), (15, 95, 2), (0, 95, 0)])


def _ogee_architrave() -> Outline:
    # On its back: the wall at the left, a reverse curve down to the opening.
    pen = OutlinePen(0, 0).line(22, 0).line(22, 46).line(20, 46)
    return pen.curve((20, 54), (9, 56), 9, 64).line(9, 70).line(0, 70).close()


def _torus_architrave() -> Outline:
    return OutlinePen(0, 0).line(18, 0).line(18, 52).line(12, 52).arc(12, 66, 0.75).line(8, 66).line(8, 70).line(0, 70).close()


def _flat_dado() -> Outline:
    return rounded([(0, 0, 0), (14, 0, 3), (14, 14, 0), (20, 20, 4), (20, 50, 4), (14, 56, 0), (14, 70, 3), (0, 70, 0)])


def _lipped_picture_rail() -> Outline:
    return rounded(
        [(0, 0, 0), (12, 0, 4), (12, 26, 0), (22, 34, 0), (22, 48, 5), (14, 48, 3), (14, 40, 0), (8, 40, 0), (8, 50, 0), (0, 50, 0)]
    )


def _solid_cove() -> Outline:
    # A hollow of 60 between two fillets; it fills the angle of wall and ceiling.
    return OutlinePen(0, 0).line(8, 0).arc(68, 60, -QUARTER).line(68, 68).line(0, 68).close()


def _sprung_cove() -> Outline:
    # A bent board of 8 between wall and ceiling, its back at 45° cut off flat where it meets them.
    pen = OutlinePen(0, 0).line(12, 0).arc(90, 78, -0.15).line(90, 90).line(82, 90)
    return pen.line(0, 8).close()


def _classical_cornice() -> Outline:
    # From the wall up: bead, hollow, fillet, round, fillet.
    pen = OutlinePen(0, 0).line(8, 0).arc(8, 10, 1.0).line(10, 10).line(10, 14).arc(30, 34, -QUARTER).line(30, 40).line(44, 40)
    return pen.curve((60, 40), (58, 66), 76, 66).line(76, 74).line(84, 74).line(84, 86).line(0, 86).close()


def _stepped_cornice() -> Outline:
    return rounded(
        [(0, 0, 0), (14, 0, 2), (14, 18, 0), (30, 18, 2), (30, 36, 0), (48, 36, 2), (48, 54, 0), (70, 54, 2), (70, 70, 0), (0, 70, 0)]
    )


def _half_round() -> Outline:
    return OutlinePen(0, 0).arc(0, 24, 1.0).close()


def _quadrant() -> Outline:
    return OutlinePen(0, 0).line(18, 0).arc(0, 18, QUARTER).close()


def _scotia() -> Outline:
    return OutlinePen(0, 0).line(20, 0).line(20, 3).arc(3, 20, -QUARTER).line(0, 20).close()


def _astragal() -> Outline:
    # A half round between two fillets.
    return OutlinePen(0, 0).line(5, 0).line(5, 5).arc(5, 17, 1.0).line(5, 22).line(0, 22).close()


def _staff_bead() -> Outline:
    # Three quarters of a round on the corner of its board, a quirk beside it.
    pen = OutlinePen(0, 0).line(20, 0).line(20, 8).line(17, 8).line(17, 11)
    return pen.arc(8, 20, math.tan(math.pi / 8)).line(0, 20).close()


def _glazing_bead() -> Outline:
    return rounded([(0, 0, 0), (14, 0, 0), (14, 4, 2), (3, 14, 2), (0, 14, 0)])


def _stair_nosing() -> Outline:
    # A tread's front: a full round nose with a rebate for the riser under it.
    pen = OutlinePen(0, 0).line(20, 0).line(20, 6).line(38, 6).line(56, 6).arc(56, 32, 1.0)
    return pen.line(0, 32).close()


def _square_nosing() -> Outline:
    return rounded([(0, 0, 0), (60, 0, 3), (60, 27, 6), (0, 27, 0)])


def _mopstick() -> Outline:
    # A round of 50 on a flat foot for its brackets.
    # 48 high: half its foot is √(25² − 23²).
    half = math.sqrt(96)
    low = 25 - math.sqrt(25**2 - half**2)
    angle = 2 * math.pi - 2 * math.asin(half / 25)
    return OutlinePen(25 - half, low).line(25 + half, low).arc(25 - half, low, math.tan(angle / 4)).close()


def _flat_handrail() -> Outline:
    return rounded_rectangle(70, 35, 8)


def _grooved_handrail() -> Outline:
    # Rounded above; a groove of 32 by 6 below takes the infill.
    return rounded([(0, 0, 3), (14, 0, 0), (14, 6, 0), (46, 6, 0), (46, 0, 0), (60, 0, 3), (60, 42, 18), (0, 42, 18)])


def _once_weathered_coping() -> Outline:
    pen = OutlinePen(0, 0).line(12, 0).arc(22, 0, -1.0).line(218, 0).arc(228, 0, -1.0)
    return pen.line(240, 0).line(240, 45).line(0, 70).close()


def _saddle_capping() -> Outline:
    # A fence's capping: weathered both ways, grooved below over the boards.
    return rounded([(0, 0, 0), (22, 0, 0), (22, 8, 0), (48, 8, 0), (48, 0, 0), (70, 0, 0), (70, 12, 4), (35, 24, 17.5), (0, 12, 4)])


def _weathered_sill() -> Outline:
    pen = OutlinePen(0, 0).line(110, 0).arc(118, 0, -1.0).line(130, 0).line(130, 34)
    return pen.line(40, 50).line(40, 58).line(0, 58).close()


def _gravel_board() -> Outline:
    return rounded([(0, 0, 0), (22, 0, -3), (22, 150, -3), (0, 150, 0)])


def _feather_edge() -> Outline:
    return OutlinePen(0, 0).line(14, 0).line(5, 125).line(0, 125).close()


def _arris_rail() -> Outline:
    # A square of 65 split corner to corner, its arris cut blunt.
    blunt = 3 * math.sqrt(2)
    return rounded([(0, 0, -blunt), (46, 46, -blunt), (0, 92, -blunt)])


def _post() -> Outline:
    return rounded([(0, 0, -6), (90, 0, -6), (90, 90, -6), (0, 90, -6)])


def _glass_channel() -> Outline:
    # A floor channel for a balustrade's glass of 21.5 in its gaskets.
    return rounded([(0, 0, 0), (60, 0, 0), (60, 100, 2), (46, 100, 2), (46, 18, 3), (14, 18, 3), (14, 100, 2), (0, 100, 2)])


def _lamp_profile() -> Outline:
    # A lamp's profile on a surface: a trough of 12 for the strip, lips that hold the cover.
    side = [(17.4, 0.0, 1.0), (17.4, 7.0, 0.4), (15.6, 7.0, 0.0), (15.6, 5.8, 0.0), (16.2, 5.8, 0.0), (16.2, 1.4, 0.0)]
    return rounded([*side, *((17.4 - x, y, r) for x, y, r in reversed(side))])


def _corner_lamp_profile() -> Outline:
    # For an inner corner: the strip lies at 45°.
    return rounded([(0, 0, 0), (18.5, 0, 0.6), (18.5, 2, 0.6), (14, 2, 0), (2, 14, 0), (2, 18.5, 0.6), (0, 18.5, 0.6)])


def _trunking() -> BoardOutline:
    # A trunking's box with its lid on.
    return rounded_rectangle(40, 25, 1.5), (rounded_rectangle(37, 22, 0.5, (1.5, 1.5)),)


def _cable_cover() -> BoardOutline:
    # A floor cover: low, with sloped sides and one duct.
    outer = rounded([(0, 0, 0), (80, 0, 0), (56, 16, 6), (24, 16, 6)])
    return outer, (rounded_rectangle(24, 9, 2, (28, 2.5)),)


def joinery() -> Iterator[Entry]:
    """Yield the sections that are not steel of a standard's size, in the order that they are listed in."""
    foot = SideBed(side="foot")
    yield entry("skirting-chamfered", "Skirtings", "Skirting, chamfered", _chamfered_skirting(), "back-foot", "painted")
    yield entry("skirting-ogee", "Skirtings", "Skirting, ogee", _ogee_skirting(), "back-foot", "painted")
    yield entry("skirting-bullnosed", "Skirtings", "Skirting, bull-nosed", _bull_skirting(), "back-foot", "softwood")
    yield entry("skirting-torus", "Skirtings", "Skirting, torus", _torus_skirting(), "back-foot", "painted")
    yield entry("skirting-ovolo", "Skirtings", "Skirting, ovolo", _ovolo_skirting(), "back-foot", "painted")
    yield entry(
        "skirting-square",
        "Skirtings",
        "Skirting, square",
        rounded([(0, 0, 0), (15, 0, 0), (15, 95, 2), (0, 95, 0)]),
        "back-foot",
        "painted",
    )
    yield entry("dado-rail", "Wall mouldings", "Dado rail", _dado_rail(), "back-middle", "painted")
    yield entry("dado-rail-flat", "Wall mouldings", "Dado rail, flat", _flat_dado(), "back-middle", "painted")
    yield entry("picture-rail", "Wall mouldings", "Picture rail", _picture_rail(), "back-foot", "painted")
    yield entry("picture-rail-lipped", "Wall mouldings", "Picture rail, lipped", _lipped_picture_rail(), "back-foot", "painted")
    yield entry("architrave", "Wall mouldings", "Architrave, stepped", _architrave(), "back-foot", "painted")
    yield entry("architrave-ogee", "Wall mouldings", "Architrave, ogee", _ogee_architrave(), "back-foot", "painted")
    yield entry("architrave-torus", "Wall mouldings", "Architrave, torus", _torus_architrave(), "back-foot", "painted")
    yield entry("cornice-sprung", "Cornices", "Cornice, sprung 38°", _sprung_cornice(), "back-head", "painted", EdgeBed(edge=0))
    yield entry("cornice-classical", "Cornices", "Cornice, classical", _classical_cornice(), "back-head", "painted")
    yield entry("cornice-stepped", "Cornices", "Cornice, stepped", _stepped_cornice(), "back-head", "painted")
    yield entry("cove-solid", "Cornices", "Cove, solid", _solid_cove(), "back-head", "painted")
    yield entry("cove-sprung", "Cornices", "Cove, sprung 45°", _sprung_cove(), "back-head", "painted", EdgeBed(edge=4))
    yield entry("half-round", "Beads", "Half round", _half_round(), "back-middle", "softwood")
    yield entry("quadrant", "Beads", "Quadrant", _quadrant(), "back-foot", "softwood")
    yield entry("scotia", "Beads", "Scotia", _scotia(), "back-foot", "softwood")
    yield entry("astragal", "Beads", "Astragal", _astragal(), "back-middle", "softwood")
    yield entry("staff-bead", "Beads", "Staff bead", _staff_bead(), "back-foot", "softwood")
    yield entry("glazing-bead", "Beads", "Glazing bead", _glazing_bead(), "back-foot", "softwood")
    yield entry("nosing-round", "Nosings", "Stair nosing, round", _stair_nosing(), "back-head", "oak")
    yield entry("nosing-square", "Nosings", "Stair nosing, square", _square_nosing(), "back-head", "oak")
    yield entry("handrail-round", "Handrails", "Handrail, round", circle(22), "middle", "oak", foot)
    yield entry("handrail-mopstick", "Handrails", "Handrail, mopstick", _mopstick(), "middle-foot", "oak", foot)
    yield entry("handrail-moulded", "Handrails", "Handrail, moulded", _moulded_handrail(), "middle-foot", "oak", foot)
    yield entry("handrail-flat", "Handrails", "Handrail, flat", _flat_handrail(), "middle-foot", "oak", foot)
    yield entry("handrail-grooved", "Handrails", "Handrail, grooved", _grooved_handrail(), "middle-foot", "oak", foot)
    yield entry("tube-round", "Steel tubes", "Round tube", (circle(24.15), (circle(20.95),)), "middle", "steel", foot, 3.2, "EN 10219-2")
    yield entry("tube-square", "Steel tubes", "Square tube", _square_tube(), "middle", "steel", foot, 3.0, "EN 10219-2")
    yield entry("flat-bar", "Steel bars", "Flat bar", rectangle(10, 50), "middle-foot", "steel", standard="EN 10058")
    yield entry("coping-weathered", "Copings and sills", "Coping, weathered", _coping(), "middle-foot", "stone", foot)
    yield entry(
        "coping-once-weathered", "Copings and sills", "Coping, once weathered", _once_weathered_coping(), "middle-foot", "stone", foot
    )
    yield entry("sill-weathered", "Copings and sills", "Sill, weathered", _weathered_sill(), "back-foot", "oak", foot)
    yield entry("fence-rail", "Fences", "Fence rail, weathered", _fence_rail(), "back-middle", "softwood")
    yield entry("arris-rail", "Fences", "Arris rail", _arris_rail(), "back-middle", "softwood")
    yield entry("gravel-board", "Fences", "Gravel board", _gravel_board(), "back-foot", "softwood")
    yield entry("feather-edge", "Fences", "Feather-edge board", _feather_edge(), "back-foot", "softwood")
    yield entry("fence-capping", "Fences", "Fence capping", _saddle_capping(), "middle-foot", "softwood", foot)
    yield entry("post-square", "Fences", "Post, chamfered", _post(), "middle", "softwood", foot)
    yield entry("batten", "Plain", "Batten", rectangle(25, 50), "back-foot", "softwood")
    yield entry("glass-channel", "Fittings", "Glass channel", _glass_channel(), "middle-foot", "aluminium", foot)
    yield entry("lamp-profile", "Fittings", "Lamp profile", _lamp_profile(), "middle-foot", "aluminium", foot)
    yield entry("lamp-profile-corner", "Fittings", "Lamp profile, corner", _corner_lamp_profile(), "back-foot", "aluminium")
    yield entry("cable-trunking", "Fittings", "Cable trunking", _trunking(), "back-foot", "painted", SideBed(side="back"), 1.5)
    yield entry("cable-cover", "Fittings", "Cable cover", _cable_cover(), "middle-foot", "aluminium", foot)
