"""What the headers of survey tables call their columns, in the common languages of Europe.

The words are those that surveyors and their programs use (common practice, no one source).
*Ordinate* is the one that languages disagree on: in German surveying it is the Rechtswert, to
the east, and the Abszisse goes north; elsewhere the ordinate is y, to the north.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Sequence
from typing import Final

from slow_ribbon.imports.options import Column

_BY_COLUMN: Final[dict[Column, str]] = {
    "number": """number no nr num id name point points pointno pointnumber pointname pointid pt ptno pts pnt
        punkt punktnr punktnummer pktnr pkt pnr nummer numero numer ponto punto point puntos pontos puntonumero matricule
        punt puntnummer puntnr piste pistenumero punktnavn punktnamn bod cislobodu cislo nrpunktu pont pontszam tocka brojtocke""",
    "east": """east easting eastings e x ost ostwert osten rechtswert rechts rw est oost oosten oster ostre este itakoordinaatti ita
        xcoord xcoordinate xkoordinate xkoord xkoordinat coordx coordx coordenadax coordinatax coordonneex wschod abscissa abscisse
        ascissa abscis abscisa eastingm utmeast""",
    "north": """north northing northings n y nord nordwert norden hochwert hoch hw norte noord noorden norr nordre pohjoinen
        pohjoiskoordinaatti ycoord ycoordinate ykoordinate ykoord ykoordinat coordy coordenaday coordinatay coordonneey sever polnoc
        ordonnee ordinata ordinaat ordenada ordinate utmnorth""",
    "height": """height heights elevation elevations elev level levels z h hoehe hohe hoehen hohen hoehenwert hoogte altitude
        altitudes alt cota cotas quota quote hojd hoyde hojde korkeus kote kota rl reducedlevel groundlevel orthoheight
        ellipsoidalheight visina vyska wysokosc rzedna nivel niveau zcoord zcoordinate zkoordinate zkoord coordz magassag hnn""",
    "code": """code codes kode kodes codice codici codigo feature featurecode description desc beschreibung bezeichnung
        bemerkung bemerkungen remark remarks note notes string layer type objekt objektart objektcode kod koodi descrizione descripcion
        descricao omschrijving attribute punktart art kommentar comment popis opis libelle nature designation beskrivelse""",
}
_WORDS: Final[dict[str, Column]] = {word: column for column, words in _BY_COLUMN.items() for word in words.split()}
#: Heads of columns that hold degrees on the ellipsoid.
_DEGREES: Final[dict[str, Column]] = {
    **dict.fromkeys(("lat", "latitude", "latitud", "latitudine", "breite", "breitengrad", "breddegrad", "leveysaste"), "north"),
    **dict.fromkeys(("lon", "long", "lng", "longitude", "longitud", "longitudine", "laenge", "lange", "laengengrad", "langengrad"), "east"),
}  # fmt: skip
#: Words of German tables, in which the ordinate goes to the east.
_GERMAN: Final = frozenset(
    ("abszisse", "abszissen", "rechtswert", "hochwert", "hoehe", "hohe", "punktnr", "punktnummer", "punkt", "pktnr", "bemerkung",
     "bezeichnung", "beschreibung", "punktart")
)  # fmt: skip
_GERMAN_AXES: Final[dict[str, Column]] = {"ordinate": "east", "ordinaten": "east", "abszisse": "north", "abszissen": "north"}
#: Letters that are no letter with a mark on it.
_LETTERS: Final = str.maketrans({"ø": "o", "æ": "ae", "ß": "ss", "ł": "l", "đ": "d", "œ": "oe", "þ": "th"})
#: Units as headers write them, and their names here.
_UNITS: Final[dict[str, str]] = {
    "mm": "mm", "millimeter": "mm", "millimetre": "mm", "cm": "cm", "m": "m", "mtr": "m", "meter": "m", "metre": "m", "metres": "m",
    "meters": "m", "metros": "m", "metri": "m", "ft": "ft", "feet": "ft", "foot": "ft", "in": "in", "inch": "in", "inches": "in",
}  # fmt: skip
_UNIT = re.compile(r"[(\[/,_ ]\s*([a-zA-Z]+)\s*[)\]]?\s*$")


def column_of(cell: str, row: Sequence[str] = ()) -> Column | None:
    """Return the meaning of a column by its heading, or None; ``row`` is the whole header.

    >>> column_of("Rechtswert [m]"), column_of("N coordinate"), column_of("Höhe"), column_of("Tuesday")
    ('east', 'north', 'height', None)
    """
    words = _words(cell)
    german = any(word in _GERMAN for other in row for word in _words(other))
    for word in ("".join(words), *words):
        if german and word in _GERMAN_AXES:
            return _GERMAN_AXES[word]
        if word in _WORDS:
            return _WORDS[word]
        if word in _DEGREES:
            return _DEGREES[word]
    return None


def are_degrees(heads: Sequence[str]) -> bool:
    """Return whether heads of columns say that they hold a latitude and a longitude.

    >>> are_degrees(["Name", "lat", "lon"]), are_degrees(["Nr", "E", "N"])
    (True, False)
    """
    words = {word for head in heads for word in ("".join(_words(head)), *_words(head))}
    return {_DEGREES[word] for word in words if word in _DEGREES} == {"east", "north"}


def unit_of(cell: str) -> str | None:
    """Return the unit that a header gives, or nothing.

    >>> unit_of("East (ft)"), unit_of("Hochwert [m]"), unit_of("Z/mm"), unit_of("East")
    ('ft', 'm', 'mm', None)
    """
    found = _UNIT.search(cell.strip())
    return _UNITS.get(found.group(1).lower()) if found else None


def _words(cell: str) -> list[str]:
    """Return the words of a header in plain small letters, without what stands in brackets."""
    bare = re.sub(r"[(\[].*|/.*", "", cell).lower().translate(_LETTERS)
    plain = unicodedata.normalize("NFKD", bare)
    return re.findall(r"[a-z]+", "".join(letter for letter in plain if not unicodedata.combining(letter)))
