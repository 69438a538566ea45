"""What things of a job derive from others, worked out in the order of their references.

Terms
-----
step
    one thing that is derived of the things of a group, after what they follow: the geometry of lines that are made, say. A thing
    goes through the steps of its group in the order of the registry.
node
    a step of one thing.
follow
    what a node is derived from: another thing as it is after some step of its group, or after all; or a field of the job itself.
detached
    a thing that was changed by hand, or what it followed was removed: it no longer follows, and stays as it is.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from graphlib import CycleError, TopologicalSorter
from heapq import heappop, heappush
from typing import Any, Final

from slow_ribbon.core.job.document.delta import unlike_parts
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.following_fields import computed_fields
from slow_ribbon.core.job.document.kinds import GROUPS, LINES, SECTIONS, Kind, Thing, kind_of
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.patience import look_up

#: Fields of the job itself that a node may follow.
MEASURES: Final = "measures"
SAW: Final = "saw"

#: The id of a thing, and the name of the step of its group that it has to be through; all of them if None.
Follow = tuple[str, str | None]
_Node = tuple[int, str]
#: The change of a thing by the edit itself, before all steps.
_EDITED: Final = -1


class Gone(Exception):
    """What a thing follows is no longer there: it is detached. ``what`` says what was removed; nothing is reported if it is empty."""

    def __init__(self, what: str = "") -> None:
        super().__init__(what)
        self.what = what


@dataclass(frozen=True, kw_only=True)
class Step:
    """One thing that is derived of the things of a kind.

    ``concerns`` returns whether anything is derived of a thing, ``follows`` what from, and ``derive`` the thing as it is derived; it
    raises ``Gone`` where that is no longer there, and ``Refused`` where it cannot be. ``where`` is the field that says what is
    followed, by which a thing is detached; None where it cannot be. ``detached`` is called with what was detached, and ``maker`` says
    in words what it followed. ``circle`` returns the refusal of a circle of references, given by the names of the things in it, each
    following the next. A step that is ``remembered`` depends on the state before, and is left out when a document is read.
    """

    name: str
    kind: Kind[Any]
    concerns: Callable[[Any], bool]
    follows: Callable[[Expansion, Any], Iterable[Follow]]
    derive: Callable[[Expansion, Any], Any]
    where: str | None = None
    detached: Callable[[Expansion, Any], None] | None = None
    maker: Callable[[Expansion, Any], str] = lambda _, __: ""
    circle: Callable[[Sequence[str]], Refused] | None = None
    remembered: bool = False


class Expansion:
    """A job while what it derives is worked out; ``before`` is its state before an edit, None where a document is read.

    Where ``read``, what came since ``before`` was read too: nothing was changed by hand, and what is remembered is as it was written.
    A part of a job, not the ``whole`` of it, gets no new sections, and keeps references to things that are not in it.
    """

    def __init__(self, before: Job | None, job: Job, stages: Sequence[Sequence[Step]], whole: bool = True, read: bool = False) -> None:
        self.before = before
        self.whole = whole
        self.notices: list[str] = []
        self._job = job
        #: Nothing in a stage follows what is derived in a later one, and what a later one is to derive may depend on this one.
        self._stages = stages
        self._steps = [step for stage in stages for step in stage]
        self.reads = read or before is None
        self._put: dict[str, Thing] = {}
        self._added: list[Thing] = []
        #: Of each thing that is not as it was: after how many steps it first was not.
        self._changed: dict[str, int] = {}
        self._again = False
        #: Lines and sections that changed and were found to hold together.
        self._checked: set[str] = set()

    def next_number(self) -> int:
        """Return the next number for an id, which is given out by that."""
        self._job = self._job.model_copy(update={"last_number": self._job.last_number + 1})
        return self._job.last_number

    def settings(self) -> Job:
        """Return the job for its measures, units and saw, which no step changes."""
        return self._job

    def all(self, kind: Kind[Any]) -> list[Any]:
        """Return the things of a kind as they are now, in order."""
        things = getattr(self._job, kind.group)
        if not self._put:
            return list(things)
        added = (thing for thing in self._added if kind_of(thing) is kind)
        return [self._put.get(thing.id, thing) for thing in (*things, *added)]

    def find(self, kind: Kind[Any], id: str) -> Any | None:
        """Return a thing of a kind by its id as it is now; None if it does not exist."""
        thing = self._put.get(id)
        if thing is not None:
            return thing if kind_of(thing) is kind else None
        return self._job.find(kind, id)

    def get(self, kind: Kind[Any], id: str) -> Any:
        """Return a thing of a kind by its id as it is now. Raises ``Refused`` if it does not exist."""
        thing = self.find(kind, id)
        if thing is None:
            raise Refused(f"There is no {kind.word} {id} in this job: it may have been removed.", kind.word, "unknown-id")
        return thing

    def earlier(self, kind: Kind[Any], id: str) -> Any | None:
        """Return a thing as it was before the edit; None if there was none, or a document is read."""
        return None if self.before is None else self.before.find(kind, id)

    def is_changed(self, id: str) -> bool:
        """Return whether a thing, or a field of the job, is not as it was before the edit."""
        return id in self._changed

    def put(self, thing: Thing, step: int = _EDITED) -> None:
        """Put a thing as it is now in place of the one with its id."""
        self._put[thing.id] = thing
        self._changed.setdefault(thing.id, step)

    def add(self, kind: Kind[Any], fields: Mapping[str, Any]) -> Any:
        """Add a new thing of a kind, with the next id, and return it."""
        thing = kind.model(id=f"{kind.letter}{self.next_number()}", **fields)
        self._added.append(thing)
        self.put(thing)
        return thing

    def derive(self) -> Job:
        """Return the job with all that follows brought after what it follows. Raises ``Refused`` where it cannot be."""
        self._find_changed()
        first = 0
        for stage in self._stages:
            last = first + len(stage)
            left = bool(self._changed)
            while left:
                self._again = False
                for rank, id in self._stale(range(first, last)):
                    look_up()
                    self._derive(rank, id)
                # What made something that is detached now may make the rest otherwise.
                left = self._again
            first = last
        if not self._put:
            return self._job
        groups = {}
        for group in {kind_of(thing).group for thing in self._put.values()}:
            added = [thing for thing in self._added if kind_of(thing).group == group]
            groups[group] = tuple(self._put.get(thing.id, thing) for thing in (*getattr(self._job, group), *added))
        return self._job.model_copy(update=groups)

    def _find_changed(self) -> None:
        for group in GROUPS:
            before = () if self.before is None else getattr(self.before, group)
            was, now, _ = unlike_parts(before, getattr(self._job, group))
            old, new = {thing.id: thing for thing in was}, {thing.id: thing for thing in now}
            self._changed.update((id, _EDITED) for id in old.keys() | new.keys() if old.get(id) is not new.get(id))
        for field in (MEASURES, SAW):
            if self.before is None or getattr(self.before, field) != getattr(self._job, field):
                self._changed[field] = _EDITED

    def _stale(self, stage: range) -> list[_Node]:
        """Return the nodes of a stage, given by its steps, that may come out otherwise, each after those that it follows."""
        if len(stage) == 1:
            # Things of one step follow none of their own kind: of thousands of runs only those that are touched are looked at.
            (rank,) = stage
            step, changed = self._steps[rank], self._changed
            return [
                (rank, thing.id)
                for thing in self.all(step.kind)
                if self._takes(step, thing) and (thing.id in changed or any(id in changed for id, _ in step.follows(self, thing)))
            ]
        follows: dict[_Node, list[_Node]] = {}
        followers: dict[str, list[_Node]] = defaultdict(list)
        #: The steps that each thing goes through, in order.
        ranks: dict[str, list[int]] = defaultdict(list)
        named: dict[_Node, list[Follow]] = {}
        for rank in stage:
            step = self._steps[rank]
            for thing in self.all(step.kind):
                if self._takes(step, thing):
                    node = rank, thing.id
                    named[node] = list(step.follows(self, thing))
                    for id in (thing.id, *(id for id, _ in named[node])):
                        followers[id].append(node)
                    ranks[thing.id].append(rank)
        left = list(self._changed)
        reached: set[_Node] = set()
        while left:
            for node in followers.get(left.pop(), ()):
                if node not in reached:
                    reached.add(node)
                    left.append(node[1])
        for node in reached:
            rank, id = node
            before = [(id, earlier) for earlier in ranks[id] if earlier < rank]
            for other, name in named[node]:
                last = self._rank(name)
                before += [(other, earlier) for earlier in ranks.get(other, ()) if earlier <= last]
            follows[node] = [(earlier, other) for other, earlier in before if (earlier, other) in reached]
        try:
            return _in_order(follows)
        except CycleError as error:
            raise self._circle(error.args[1]) from error

    def _takes(self, step: Step, thing: Thing) -> bool:
        """Return whether a thing goes through a step: where a document is read, not through those that are remembered."""
        return not (self.reads and step.remembered) and step.concerns(thing)

    def _rank(self, name: str | None) -> int:
        """Return the place of a step among all; the last of all for None."""
        return next((rank for rank, step in enumerate(self._steps) if step.name == name), len(self._steps))

    def _circle(self, nodes: Sequence[_Node]) -> Refused:
        steps = [self._steps[rank] for rank, _ in nodes]
        names = [self.get(step.kind, id).name for step, (_, id) in zip(steps, nodes, strict=True)][::-1]
        words = steps[0].circle
        if words is not None and all(step is steps[0] for step in steps):
            return words(names)
        return Refused(f"{' follows '.join(names)}: things cannot follow one another in a circle.", "", "follow-circle")

    def _derive(self, rank: int, id: str) -> None:
        step = self._steps[rank]
        thing = self.find(step.kind, id)
        if thing is None or not step.concerns(thing):
            return
        previous = self.earlier(step.kind, id)
        if previous is not None and not self._is_stale(rank, thing):
            return
        self._check_followed(step, thing)
        try:
            derived = step.derive(self, thing)
        except Gone as gone:
            if self.reads:
                what = f"{thing.name} follows something that is not in the job: add it, or leave out the field {step.where}."
                raise Refused(what, f"{step.kind.group}.{id}.{step.where}", "unknown-id") from gone
            if gone.what:
                self.notices.append(f"{thing.name} no longer follows: {gone.what} was removed.")
            self._detach(step, rank, thing)
            return
        edited = self._job.find(step.kind, id)
        if previous is not None and edited is not None and self._by_hand(step.where, previous, edited, derived):
            self.notices.append(f"{thing.name} no longer follows{step.maker(self, thing)}: it was changed by hand.")
            self._detach(step, rank, thing)
        elif derived is not thing and derived != thing:
            self.put(derived, rank)

    def _check_followed(self, step: Step, thing: Thing) -> None:
        """Raise ``Refused`` where a line or a section that is followed cannot be, before it is computed with."""
        for id, _ in step.follows(self, thing):
            if id in self._checked or id not in self._changed:
                continue
            self._checked.add(id)
            for kind in (LINES, SECTIONS):
                other = self.find(kind, id)
                if other is None:
                    continue
                try:
                    kind.check(self._job, other, True)
                except Refused as refused:
                    if self.before is not None:
                        raise
                    place = [one.id for one in getattr(self._job, kind.group)].index(id)
                    raise Refused(refused.what, f"{kind.group}.{place}.{refused.where}".rstrip("."), refused.code) from refused

    def _is_stale(self, rank: int, thing: Thing) -> bool:
        if self._changed.get(thing.id, rank) < rank:
            return True
        never = len(self._steps) + 1
        return any(self._changed.get(id, never) <= self._rank(name) for id, name in self._steps[rank].follows(self, thing))

    def _by_hand(self, where: str | None, previous: Thing, thing: Thing, derived: Thing) -> bool:
        """Return whether an edit changed a derived field of a thing to another value, and not what the thing follows."""
        if self.reads or where is None or getattr(previous, where) != getattr(thing, where):
            return False
        names = computed_fields(thing, where)
        now = [getattr(thing, name) for name in names]
        return now != [getattr(previous, name) for name in names] and now != [getattr(derived, name) for name in names]

    def _detach(self, step: Step, rank: int, thing: Thing) -> None:
        assert step.where is not None  # only what follows by a field of its own can do without
        alone = thing.model_copy(update={step.where: None})
        self.put(alone, rank)
        if step.detached is not None:
            step.detached(self, alone)
            self._again = True


def _in_order(follows: Mapping[_Node, Iterable[_Node]]) -> list[_Node]:
    """Return nodes, each after those it follows; in the order of the registry and of ids where that leaves it open."""
    sorter = TopologicalSorter(follows)
    sorter.prepare()
    ready: list[_Node] = []
    found = []
    while sorter:
        for node in sorter.get_ready():
            heappush(ready, node)
        found.append(heappop(ready))
        sorter.done(found[-1])
    return found
