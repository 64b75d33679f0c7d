"""Sheets from elsewhere: CSV as spreadsheets write it, whatever they part cells with."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

MOST_ROWS, MOST_BYTES, MOST_CELL = 2000, 500_000, 1000
_UNIT = re.compile(r"^(?P<name>.*?)\s*[(\[,]\s*(?P<unit>[^)\]]+?)\s*[)\]]?\s*$")
PARTED = (";", "\t", ",", "|")


class SheetError(ValueError):
    """What is wrong with a sheet, as a sentence."""


@dataclass(frozen=True)
class SheetRow:
    """A row: its number in the sheet (the heading is 1), and its cells by the name of their column.

    Attributes:
        units: of each column that names one in its heading.
    """

    number: int
    cells: Mapping[str, str]
    units: Mapping[str, str]

    def text(self, name: str) -> str:
        """A cell with the unit of its heading, where it has none of its own."""
        text, unit = self.cells.get(name, ""), self.units.get(name, "")
        return f"{text} {unit}" if text and unit and not re.search(r"[A-Za-z%°]", text) else text


@dataclass(frozen=True)
class Sheet:
    """A sheet: the names of its columns that are known, those that are not, and its rows."""

    known: Sequence[str]
    strange: Sequence[str]
    rows: Sequence[SheetRow]


def decoded(content: bytes) -> str:
    """The text of a file as spreadsheets write it: UTF-8 with or without a mark before it, UTF-16
    with one, or else Western European.

    Raises:
        SheetError: it is no text.
    """
    if len(content) > MOST_BYTES:
        raise SheetError(f"It is larger than {MOST_BYTES // 1000} kB; send it in parts.")
    if content[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return _as(content, "utf-16")
    if b"\0" in content:
        raise SheetError("This is no text: save the sheet as CSV first.")
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError:
        return _as(content, "cp1252")


def _as(content: bytes, encoding: str) -> str:
    try:
        return content.decode(encoding)
    except UnicodeDecodeError:
        raise SheetError(
            "This is no text that can be read: save the sheet as CSV in UTF-8."
        ) from None


def parted_by(text: str) -> str:
    """What parts the cells: the sign that parts the heading, and most rows alike."""
    lines = [line for line in text.splitlines() if line.strip()][:30]
    best, most = ",", 0.0
    for sign in PARTED:
        counts = [len(row) for row in csv.reader(lines, delimiter=sign)]
        if not counts or counts[0] < 2:
            continue
        alike = sum(count == counts[0] for count in counts) / len(counts)
        score = alike + 0.01 * counts[0]
        if score > most:
            best, most = sign, score
    return best


def read_sheet(text: str, columns: Mapping[str, Sequence[str]]) -> Sheet:
    """Read a sheet whose first row names its columns.

    Args:
        columns: names as they are asked for, each with others that it goes by.

    Returns:
        The sheet; a column may name its unit, as ``mass (g)``.

    Raises:
        SheetError: nothing in it, no known column, or more rows than are taken at once.
    """
    text = text.lstrip("\ufeff")
    if not text.strip():
        raise SheetError("There is nothing in it.")
    try:
        table = list(csv.reader(io.StringIO(text), delimiter=parted_by(text), strict=False))
    except csv.Error as error:
        raise SheetError(f"It cannot be read as a sheet: {error}.") from None
    rows = [(k, row) for k, row in enumerate(table, 1) if any(cell.strip() for cell in row)]
    if not rows:
        raise SheetError("There is nothing in it.")
    heads, units, strange = list[str](), dict[str, str](), list[str]()
    for cell in rows[0][1]:
        name, unit = _headed(cell, columns)
        heads.append(name)
        if not name and cell.strip():
            strange.append(cell.strip()[:40])
        elif name and unit:
            units[name] = unit
    known = [name for name in heads if name]
    if not known:
        asked = ", ".join(columns)
        raise SheetError(f"Its first row names no column known here; they are {asked}.")
    twice = next((name for name in known if known.count(name) > 1), None)
    if twice:
        raise SheetError(f"Two of its columns are “{twice}”.")
    if len(rows) - 1 > MOST_ROWS:
        raise SheetError(f"It has more than {MOST_ROWS} rows; send it in parts.")
    found = [
        SheetRow(
            number,
            {
                name: cell.strip()[:MOST_CELL]
                for name, cell in zip(heads, row, strict=False)
                if name and cell.strip()
            },
            units,
        )
        for number, row in rows[1:]
    ]
    return Sheet(known, strange, found)


def _headed(cell: str, columns: Mapping[str, Sequence[str]]) -> tuple[str, str]:
    """The column that a heading names, and its unit; nothing for one that is not known."""
    plain = cell.strip().lower()
    whole = _known(plain, columns)
    if whole:
        return whole, ""
    parts = _UNIT.match(plain)
    if parts is None:
        return "", ""
    name = _known(parts["name"], columns)
    return (name, parts["unit"]) if name else ("", "")


def _known(plain: str, columns: Mapping[str, Sequence[str]]) -> str:
    return next((name for name, others in columns.items() if plain in (name, *others)), "")
