"""How many examples a property is tried on."""

from __future__ import annotations

from typing import Final

from hypothesis import settings

#: Examples in the profile that the numbers in the tests are for.
WHOLE: Final = 60


def examples(count: int) -> int:
    """Return the number of examples to try in the current profile, given the number in the ``whole`` one (``conftest.py``)."""
    profile = settings.default
    assert profile is not None  # there is one in a test run
    return max(2, count * profile.max_examples // WHOLE)
