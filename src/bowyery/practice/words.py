"""What is done in a practice session, and what it shows, in words."""

from __future__ import annotations

from bowyery.practice.session import Act, State, sunk
from bowyery.tiller.kinds import KINDS
from bowyery.tiller.statements import Statement, Tree
from bowyery.units.quantity import Units

_READS = {
    "weight": "the scale", "tips": "the tips", "edge": "the straight edge",
    "edges": "the straight edge all along", "gaps": "the gaps at brace",
    "profile": "how it lies unstrung", "string": "where the string lies",
    "floor": "the floor tiller", "thickness": "the calipers",
}  # fmt: skip
_SHORT_OF = 0.004  # what a pull comes less far than was asked, to be told (m)
_STRINGS = {"long": "the long string on", "low": "braced low", "full": "full brace"}


def stretch_words(act: Act, shown: Units) -> str:
    """A limb and a stretch of it."""
    limb = f"{act.limb} limb" if act.limb else "both limbs"
    if act.start is None or act.end is None:
        return f"{limb}, all along"
    low, high = sorted((act.start, act.end))
    return f"{limb}, {shown.bare_length(low)} to {shown.length(high)} from the centre"


def act_words(act: Act, shown: Units, after: State | None = None) -> str:
    """What was done.

    Args:
        after: how the session stands after it, for how far a pull came.

    Returns:
        A saying, such as ``25 short pulls``.
    """
    value = act.value or 0.0
    if act.kind == "scrape":
        edge = f" off the {act.edge} edge" if act.edge else ""
        tool = f" with the {act.how}" if act.how else ""
        return f"{value:.0f} strokes{tool}{edge}: {stretch_words(act, shown)}"
    if act.kind == "guess":
        return f"guessed {value:.0f} strokes: {stretch_words(act, shown)}"
    if act.kind == "mark":
        return f"marked {act.how}: {stretch_words(act, shown)}"
    if act.kind == "heat":
        limb = f"{act.limb} limb" if act.limb else "both limbs"
        reflex = f", {shown.length(value)} reflex" if act.value else ""
        return f"heated {act.how}{reflex}: {limb}"
    if act.kind == "cut":
        return f"{shown.length(value)} cut off {f'the {act.limb} end' if act.limb else 'both ends'}"
    if act.kind == "string":
        at = f", {shown.length(value)}" if act.value and act.how != "long" else ""
        return f"{_STRINGS.get(act.how, act.how)}{at}"
    if act.kind == "pull" and after is not None and value > after.reached + _SHORT_OF:
        why = "it broke" if after.broke is not None else "it comes no further"
        return f"pulled to {shown.length(after.reached)}: {why}"
    return {
        "pull": f"pulled to {shown.length(value)}",
        "hold": f"held for {value:.0f} s",
        "down": "let down",
        "exercise": f"{value:.0f} short pulls",
        "read": f"read {_READS.get(act.how, act.how)}",
        "wait": f"waited {value:g} h" if value < 48 else f"waited {value / 24:g} days",
        "ask": "asked for advice",
        "finish": "finished",
    }[act.kind]


def said_words(state: State, shown: Units) -> tuple[str, ...]:
    """What the last act showed.

    Returns:
        Sentences, the straight edge along a limb in one.
    """
    runs: list[list[Statement]] = []
    for one in state.said:
        before = runs[-1][-1] if runs else None
        run = before is not None and one.kind == "straight edge" == before.kind
        if run and before is not None and before.limb == one.limb:
            runs[-1].append(one)
        else:
            runs.append([one])
    return tuple(
        statement_words(run[0], state, shown) if len(run) == 1 else _edge_words(run, shown)
        for run in runs
    )


def _edge_words(run: list[Statement], shown: Units) -> str:
    """The straight edge slid along a limb."""
    rows = [
        f"{bare(one, shown)} at {shown.bare_length(_near(one.at or 0.0, shown))}" for one in run
    ]
    limb = (run[0].limb or "").capitalize()
    return f"{limb} limb, gap under the edge: {', '.join(rows)} {'in' if shown.imperial else 'mm'}"


def _near(place: float, shown: Units) -> float:
    """A place to the nearest half of an inch, or five millimetres: nobody lays it nearer."""
    step = 0.0127 if shown.imperial else 0.005
    return round(place / step) * step


def bare(one: Statement, shown: Units) -> str:
    """The figure of a reading, as it is pencilled on a limb."""
    quantity = KINDS[one.kind].quantity
    return quantity.bare(one.value or 0.0, shown)


def statement_words(one: Statement, state: State, shown: Units) -> str:
    """A reading as it is written down."""
    said = KINDS[one.kind].aloud(one, Tree(reach=(state.reach(0), state.reach(1))), shown)
    return said[:1].upper() + said[1:]


def state_words(state: State, shown: Units) -> str:
    """How the bow hangs now, for whoever cannot see it."""
    if state.broke is not None:
        broke = state.broke
        how = "its back tore" if broke.back else "its belly was crushed"
        return (
            f"It is broken: the {broke.limb} limb, {shown.length(broke.at)} from the centre, at"
            f" {shown.length(broke.draw)}; {how}."
        )
    rung = {"long": "On the long string", "low": "Braced low", "full": "At full brace"}
    said = rung[state.string.rung]
    if state.held is not None:
        said += f", held at {shown.length(state.held)}"
        if state.seconds >= 1:
            gone = 100 * (1 - sunk(state.seconds))
            said += f" for {state.seconds:.0f} s; the weight has sunk by {gone:.1f} %"
    else:
        said += ", let down"
    if state.pulls is not None:
        said += f"; {state.pulls} short pulls since wood came off"
    if state.frets:
        limb, at = state.frets[-1]
        said += f"; frets on the {limb} limb's belly, {shown.length(at)} from the centre"
    return said + "."
