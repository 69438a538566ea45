"""Units of DXF drawings, by the code in their head."""

from __future__ import annotations

import ezdxf
import ezdxf.units
from ezdxf.enums import InsertUnits

#: Units that ezdxf knows no length for, in mm (DXF reference, $INSUNITS). A US survey foot is 1200/3937 m (Mendenhall
#: order, 1893; withdrawn by NIST at the end of 2022, and still in old drawings).
_SURVEY_FOOT = 1_200_000 / 3937
_SURVEY: dict[int, tuple[str, float]] = {
    8: ("microinches", 25.4e-6),
    9: ("mils", 0.0254),
    21: ("US survey feet", _SURVEY_FOOT),
    22: ("US survey inches", _SURVEY_FOOT / 12),
    23: ("US survey yards", _SURVEY_FOOT * 3),
    24: ("US survey miles", _SURVEY_FOOT * 5280),
}


def unit_of(code: int) -> tuple[int, float, str]:
    """Return the unit code, its length in mm and its name; code 0 and millimetres where a drawing does not say."""
    try:
        if code in _SURVEY:
            name, size = _SURVEY[code]
            return code, size, name
        if code:
            return (
                code,
                float(ezdxf.units.conversion_factor(InsertUnits(code), InsertUnits(ezdxf.units.MM))),
                str(ezdxf.units.unit_name(code)).lower().replace("meter", "metre"),
            )
    except (TypeError, KeyError, IndexError, ValueError):
        # ezdxf knows no length for the rarest units, nor for codes that DXF does not have.
        pass
    return 0, 1.0, "millimetres"
