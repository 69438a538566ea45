"""The one kind of error the core raises for input it cannot accept."""

from __future__ import annotations

from slow_ribbon.core.kernel.figures import plain


class Refused(ValueError):
    """Input that cannot be accepted, reported so that a person can mend it.

    ``what`` is a whole sentence: what is wrong and what to do, its lengths as ``text_parts`` keeps them
    (``str`` writes them in millimetres). ``where`` is the place in the
    input (``"legs.3.to"``, ``"centres"``), empty where the whole input is meant. ``code`` is a
    short stable word for programs.
    """

    def __init__(self, what: str, where: str = "", code: str = "refused") -> None:
        super().__init__(plain(what))
        self.what = what
        self.where = where
        self.code = code
