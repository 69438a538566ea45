"""Files that are imported: read and joined a few at a time, by processes of their own, and remembered for the next step."""

from __future__ import annotations

import hashlib
import threading
from collections.abc import Callable, Mapping
from typing import Annotated, Any, Final, TypeVar

from cachetools import LRUCache
from pydantic import BaseModel, Field

from slow_ribbon.core.kernel import Coordinate, Refused
from slow_ribbon.imports.drawing import Drawing
from slow_ribbon.imports.isolated import find_lines_apart, item_data_apart, picture_data_apart, read_data_apart
from slow_ribbon.imports.line_finding import Found
from slow_ribbon.imports.options import Options
from slow_ribbon.imports.registry import ending_of
from slow_ribbon.imports.results import ItemRead, PictureRead
from slow_ribbon.service.work.tasks import Task
from slow_ribbon.store.jobs import Jobs

#: Drawings, and lines found in them, that are remembered hold at most this many edges together.
_MOST_EDGES: Final = 600_000
#: Pictures that are remembered take at most this many bytes.
_MOST_BYTES: Final = 40 * 1024**2

JunctionNumber = Annotated[str, Field(pattern=r"^[0-9]{1,9}$")]
WayOn = tuple[Annotated[int, Field(ge=0, le=10**6)], Annotated[int, Field(ge=0, le=10**6)]]


class Joining(BaseModel):
    """How edges are joined: ``layers`` left out are all; ``ways`` for junctions by number; ``level`` brings all to one height, mm.

    The edges along ``loops`` of a mesh's faces are taken with those on the layers.
    """

    tolerance: float = 1.0
    layers: Annotated[list[str], Field(max_length=100_000)] | None = None
    ways: Annotated[dict[JunctionNumber, Annotated[list[WayOn], Field(max_length=1000)]], Field(max_length=100_000)] = {}
    level: Coordinate | None = None
    loops: Annotated[list[Annotated[int, Field(ge=0, le=10**8)]], Field(max_length=100_000)] = []


_T = TypeVar("_T")


def _weight(drawing: Drawing) -> int:
    """Return how much a drawing takes to be remembered, in edges."""
    return 1 + len(drawing.begins) + (len(drawing.faces.triangles) // 2 if drawing.faces is not None else 0)


class Drawings:
    """The files of one server. Safe to use from several threads."""

    def __init__(self, jobs: Jobs) -> None:
        self._jobs = jobs
        self._lock = threading.Lock()
        self._drawings: LRUCache[str, Drawing] = LRUCache(_MOST_EDGES, _weight)
        self._found: LRUCache[str, Found] = LRUCache(_MOST_EDGES, lambda found: 1 + len(found.edges))
        self._pictures: LRUCache[tuple[str, int], PictureRead] = LRUCache(_MOST_BYTES, lambda picture: len(picture.png))

    def forget(self) -> None:
        """Forget what was read; the originals are kept."""
        with self._lock:
            self._drawings.clear()
            self._found.clear()
            self._pictures.clear()

    def take_in(self, file: str, data: bytes, options: Options, going: Task) -> tuple[str, Drawing]:
        """Read a file that was sent, keep its original, and return its content hash and the drawing."""
        content = hashlib.sha256(data).hexdigest()
        drawing = self._read(content, file, lambda: data, options, going)
        self._jobs.originals.keep(content, file, data)
        return content, drawing

    def drawing(self, content: str, options: Options, going: Task) -> tuple[str, Drawing]:
        """Return the file name and the drawing of an original. Raises ``Unknown``."""
        # Its bytes are only fetched where it has to be read again.
        file = self._jobs.originals.name(content)
        return file, self._read(content, file, lambda: self._jobs.originals.get(content)[1], options, going)

    def found(self, content: str, options: Options, wanted: Joining, going: Task) -> tuple[str, Found]:
        """Return the file name and the lines joining makes of an original, remembered for when they are added."""
        key = f"{content} {options.model_dump_json()} {wanted.model_dump_json()}"
        file, drawing = self.drawing(content, options, going)
        if drawing.question is not None:
            raise Refused(drawing.question.what, drawing.question.where, drawing.question.code)
        ways: Mapping[int, Any] = {int(number): pairs for number, pairs in wanted.ways.items()}

        def join() -> Found:
            going.begin("joining the edges")
            return find_lines_apart(
                drawing, wanted.layers, wanted.tolerance, ways, wanted.level, going.tell, going.is_stopped, wanted.loops
            )

        return file, self._remembered(self._found, key, join)

    def take_picture(self, file: str, data: bytes, page: int, going: Task) -> tuple[str, PictureRead]:
        """Read a picture that was sent, keep its original, and return its content hash and the picture."""
        content = hashlib.sha256(data).hexdigest()
        picture = self._remembered(self._pictures, (content, page), lambda: picture_data_apart(data, page, stopped=going.is_stopped))
        self._jobs.originals.keep(content, file, data)
        return content, picture

    def picture(self, content: str, page: int, going: Task) -> PictureRead:
        """Return a page of a picture by its content. Raises ``Unknown``."""
        return self._remembered(
            self._pictures,
            (content, page),
            lambda: picture_data_apart(self._jobs.originals.get(content)[1], page, stopped=going.is_stopped),
        )

    def take_item(self, file: str, data: bytes, options: Options, going: Task) -> tuple[str, str, ItemRead]:
        """Read an item that was sent, keep its original and the mesh that is drawn, and return the hashes of both and the item."""
        content, item = self._item(file, data, options, going)
        original = hashlib.sha256(data).hexdigest()
        self._jobs.originals.keep(original, file, data)
        return original, content, item

    def item(self, original: str, options: Options, going: Task) -> tuple[str, str, ItemRead]:
        """Read an item that was sent before in another way. Raises ``Unknown``."""
        return original, *self._item(*self._jobs.originals.get(original), options, going)

    def _item(self, file: str, data: bytes, options: Options, going: Task) -> tuple[str, ItemRead]:
        """Read an item, keep the mesh that is drawn, and return its hash and the item."""
        item = item_data_apart(data, ending_of(file, data[:1000]), options, stopped=going.is_stopped)
        content = hashlib.sha256(item.glb).hexdigest()
        self._jobs.originals.keep(content, f"{file.rsplit('.', 1)[0]}.glb", item.glb)
        return content, item

    def known_picture(self, content: str, page: int) -> PictureRead | None:
        """Return a picture that is remembered, which need not wait for a reader; else nothing."""
        with self._lock:
            return self._pictures.get((content, page))

    def _read(self, content: str, file: str, data: Callable[[], bytes], options: Options, going: Task) -> Drawing:
        def read() -> Drawing:
            going.begin("reading the file")
            whole = data()
            return read_data_apart(whole, ending_of(file, whole[:1000]), options, stopped=going.is_stopped, asking=True, report=going.tell)

        # The same bytes may have been sent as a file of another kind.
        ending = file.rsplit(".", 1)[-1].lower()
        return self._remembered(self._drawings, f"{content} {ending} {options.model_dump_json()}", read)

    def _remembered(self, cache: LRUCache[Any, _T], key: Any, work: Callable[[], _T]) -> _T:
        with self._lock:
            known = cache.get(key)
        if known is not None:
            return known
        made = work()
        with self._lock:
            # What is larger than all that is remembered is not: cachetools refuses it.
            if cache.getsizeof(made) <= cache.maxsize:
                cache[key] = made
        return made
