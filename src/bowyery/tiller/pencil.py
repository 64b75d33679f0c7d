"""The pencil line: what a maker writes on the limb, read into statements and said back.

Everything follows from one table (:mod:`bowyery.tiller.kinds`): how each kind of statement is
written, what it is called in help and errors, what a bow can show, and how it is said back.
Statements are parted by ``;`` or by a comma and a space; bare numbers are in the writer's units;
``note`` takes the rest of the line.

Of a run of statements of one kind the limb and the word may be left out after the first. A figure
that could be two things is refused with both of them, never guessed.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import replace
from difflib import get_close_matches
from itertools import groupby
from typing import TypeVar

from bowyery.errors import UnreadableError
from bowyery.tiller.kinds import ACTS, KINDS, READINGS, ROWS
from bowyery.tiller.kinds.act import LATER
from bowyery.tiller.kinds.eye import TOO_STIFF, TOO_WEAK
from bowyery.tiller.kinds.kind import Help, Kind
from bowyery.tiller.statements import LIMB, LIMBS, Context, Statement, Tree, pattern
from bowyery.units.quantity import IMPERIAL, WEIGHT, Units, World

Key = TypeVar("Key")
# What parts one pull from the next.
PARTS_PULLS = ("string", "wood", "act", "pulls", "rested", "lie")
HELPS: tuple[Help, ...] = tuple(help for row in ROWS for help in row.helps)


def parse(line: str, world: World, tree: Tree | None = None) -> tuple[Statement, ...]:
    """Read a pencil line.

    Args:
        tree: how figures are taken on the bow it is about.

    Returns:
        Its statements in order. What is read at places of the limbs belongs to the draw of the
        weight before it on the same string.

    Raises:
        UnreadableError: names the part that could not be read and shows what could stand there.
    """
    found, troubles = read([("", line.strip().lstrip("/"))], world, tree)
    if troubles:
        raise troubles[0][1]
    if not found:
        example = ", ".join(row.helps[0].example(world) for row in ROWS[:2])
        raise UnreadableError(f"Nothing was written; try “{example}”.")
    return found


def read(
    parts: Iterable[tuple[Key, str]], world: World, tree: Tree | None = None
) -> tuple[tuple[Statement, ...], list[tuple[Key, UnreadableError]]]:
    """Read parts of one line that come from different places, as fields of a form.

    Args:
        parts: each with the name of where it comes from.
        tree: how figures are taken on the bow it is about.

    Returns:
        All statements in order, as for :func:`parse`, and what could not be read, by names.
    """
    tree = tree or Tree()
    found: list[Statement] = []
    troubles: list[tuple[Key, UnreadableError]] = []
    last: Statement | None = None
    draw = tree.draw
    for key, text in parts:
        note = re.search(r"(?:^|[;,]\s*)note\b[:\s]*(.*)$", text, re.IGNORECASE | re.DOTALL)
        rest = text if note is None else text[: note.start()]
        try:
            for part in re.split(r";|,\s+|,$|\n", rest):
                for one in _joined(part.strip()):
                    for statement in _statements(one, world, tree, last):
                        last = statement
                        kind, reading = KINDS[statement.kind], READINGS.get(statement.kind)
                        if statement.kind == "weight":
                            own = statement.draw
                            statement = replace(statement, draw=draw if own is None else own)
                            draw = statement.draw
                        elif kind.walk in PARTS_PULLS:
                            draw = None
                        elif reading is not None and reading.on_place:
                            own = statement.draw
                            statement = replace(statement, draw=draw if own is None else own)
                        found.append(statement)
            _refuse_contradictions(found)
            if note is not None:
                said = note[1].strip()
                if not said:
                    raise UnreadableError("The note is empty.")
                found.append(Statement("note", f"note {said}", words=said))
        except UnreadableError as error:
            troubles.append((key, error))
    tips = any(s.kind == "tip height" and s.draw is None for s in found)
    for s in found:
        if s.kind == "weight" and s.draw is None and not tips:
            troubles.append((key, UnreadableError(
                f"“{s.text}” does not say at which draw; write it behind the weight, or how far"
                " both tips have come down."
            )))  # fmt: skip
    return tuple(found), troubles


def draw_at_hand(statements: Iterable[Statement]) -> float | None:
    """The draw of the pull that statements of a log end in (m); None where it was let down."""
    draw: float | None = None
    for one in statements:
        if one.kind == "weight":
            draw = one.draw
        elif KINDS[one.kind].walk in PARTS_PULLS and one.tool != LATER:
            draw = None
    return draw


def _refuse_contradictions(found: list[Statement]) -> None:
    """One stretch cannot look stiff and weak at once, nor both limbs bend less than the other."""
    seen = [s for s in found if s.kind == "eye"]
    for k, one in enumerate(seen):
        for other in seen[:k]:
            start = max(one.start or 0.0, other.start or 0.0)
            end = min(one.end or 0.0, other.end or 0.0)
            hows = {one.how, other.how}
            apart = bool(hows & {*TOO_STIFF}) + bool(hows & {*TOO_WEAK}) + ("good" in hows)
            if one.limb == other.limb and start < end and apart > 1:
                raise UnreadableError(
                    f"“{other.text}” and “{one.text}” say two things of one place; leave out the"
                    " one that is mistaken."
                )
    limbs = [s for s in found if s.kind == "eye limb"]
    if len({(s.limb == "upper") == (s.how == "less") for s in limbs}) > 1:
        raise UnreadableError(
            f"“{limbs[0].text}” and “{limbs[1].text}” cannot both be; leave one out."
        )


_LATER = re.compile(r"(?:later|to come):?\s+(.+)", re.IGNORECASE)


def _later(part: str, inner: str, world: World, tree: Tree) -> tuple[Statement, ...]:
    """An act that is still to come."""
    said = _statements(inner, world, tree, None)
    if any(s.kind not in ACTS for s in said):
        raise UnreadableError(
            f"“{part}” is no act that changes a bow; write for example “later backing rawhide"
            f" {'1/32' if world == IMPERIAL else '1'}”."
        )
    return tuple(replace(s, text=part, tool=LATER) for s in said)


def _joined(part: str) -> list[str]:
    """Readings of one kind may be joined by “and”; the limb and the word stand before the first."""
    places = "|".join(k.word for k in READINGS.values() if "at" in k.needs and k.word)
    run = re.fullmatch(rf"((?:(?:{'|'.join(LIMBS)})\s+)?(?:{places}))\s+(.+)", part, re.IGNORECASE)
    if run is None:
        return [part] if part else []
    return [f"{run[1]} {one.strip()}" for one in re.split(r"\s+and\s+", run[2])]


def _statements(
    part: str, world: World, tree: Tree, last: Statement | None
) -> tuple[Statement, ...]:
    """What one part says; more than one thing it could say is asked about."""
    later = _LATER.fullmatch(part)
    if later is not None:
        return _later(part, later[1], world, tree)
    low = part.lower()
    could: list[tuple[Kind, tuple[Statement, ...]]] = []
    trouble: list[tuple[Kind, UnreadableError]] = []
    for row in ROWS:
        same = last is not None and last.kind == row.name
        for form in (*row.forms, *(row.after_one() if same else ())):
            match = pattern(form).fullmatch(low)
            if match is None:
                continue
            try:
                said = row.read(Context(part, world, tree, match))
            except UnreadableError as error:
                trouble.append((row, error))
                continue
            carried = form not in row.forms
            could.append((row, tuple(_of_a_limb(s, last, carried) for s in said)))
            break
    if len(could) > 1:
        shown = Units(world)
        both = " or ".join(f"“{words(s, tree, shown)[0]}”" for _, s in could[:2])
        forms = " or ".join(f"“{_in_full(s[0], world)}”" for _, s in could[:2])
        raise UnreadableError(f"“{part}” could mean {both}; write {forms}.")
    if could:
        return could[0][1]
    meant = [help for help in HELPS if re.search(rf"\b{help.word}\b", low)]
    kinds = [row for row in ROWS if any(help in meant for help in row.helps)]
    if trouble:  # of the kind that was meant, where its word is there
        raise min(trouble, key=lambda one: one[0] not in kinds)[1]
    if re.fullmatch(rf"{LIMB}\s+[\d.,/\s]+\w*", low):
        raise UnreadableError(
            f"“{part}” does not say what was read; write gap, tip, edge or offset before the"
            " figure."
        )
    kind = READINGS.get(kinds[0].name) if kinds else None
    if kind and kind.of_limb and not re.search(LIMB, low):
        raise UnreadableError(f"“{part}” does not say which limb; write upper or lower before it.")
    usual = [row.helps[0] for row in ROWS[:3]]
    examples = "”, “".join(one.example(world) for one in meant[:1] or _nearest(low) or usual)
    raise UnreadableError(
        f"“{part}” could not be read; write for example “{examples}” or “note …”."
    )


def _nearest(part: str) -> list[Help]:
    """The way to say it whose word is nearest to one that was written; none where none is near."""
    words = {word: help for help in HELPS for word in re.findall("[a-z]{3,}", help.word)}
    for one in re.findall("[a-z]{3,}", part):
        near = get_close_matches(one, words, 1, 0.7)
        if near:
            return [words[near[0]]]
    return []


def _in_full(statement: Statement, world: World) -> str:
    """A reading written so that it can mean nothing else."""
    kind = READINGS[statement.kind]
    if kind.of_limb:
        return f"{statement.limb} {kind.word} {statement.text}"
    figure, _, rest = statement.text.partition(" ")
    return f"{figure} {WEIGHT.sign(world)} {rest}"


def _of_a_limb(statement: Statement, last: Statement | None, carried: bool) -> Statement:
    """What a reading takes over from the one before it, of the same kind: limb and draw."""
    kind = READINGS.get(statement.kind)
    if kind is None or not kind.of_limb or last is None or last.kind != statement.kind:
        return statement
    draw = last.draw if carried and statement.draw is None else statement.draw
    return replace(statement, limb=statement.limb or last.limb, draw=draw)


def words(statements: tuple[Statement, ...], tree: Tree, shown: Units) -> list[str]:
    """Say statements back as a colleague would.

    Args:
        tree: of the bow they are about.

    Returns:
        One saying each; one for all that was traced of a bow at once.
    """
    said = []
    for (kind, draw), run in groupby(statements, key=lambda s: (s.kind, s.draw)):
        rows = list(run)
        if kind == "traced" and len(rows) > 2:
            limbs = {s.limb for s in rows}
            whose = "both limbs" if len(limbs) > 1 else f"the {rows[0].limb} limb"
            when = "braced" if draw is None else f"at {tree.draw_words(draw, shown)}"
            said.append(f"{whose} traced from a photograph at {len(rows)} places, {when}")
        else:
            said += [
                ("still to come: " if s.tool == LATER else "") + KINDS[s.kind].aloud(s, tree, shown)
                for s in rows
            ]
    return said


def help_rows(world: World) -> list[tuple[str, str]]:
    """How each kind of statement is written in a world, and what it means."""
    rows = [(help.example(world), help.meaning) for help in HELPS]
    later = "later backing rawhide 1/32" if world == IMPERIAL else "later backing rawhide 1"
    return [
        *rows,
        (later, "an act that is still to come: the tiller leads there"),
        ("note …", "anything, to the end of the line"),
    ]
