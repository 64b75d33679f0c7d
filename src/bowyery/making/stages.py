"""The stages of a bow, each once: its work, what rests after it, what is said of it. A new stage is
a row here, and what its own bench shows.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Stage:
    """A stage of a bow's making.

    Attributes:
        hours: of a careful maker's work (h); a quick bow takes a third, a careful one half as much
            again.
        todo: what is to be done at it.
        passed: what is said when it is done, and where it goes on.
        caution: what can hurt somebody at it.
        minded: its caution stands on Today while a bow is at it.
        rests: what rests by itself after its work, names of the table of rests.
    """

    name: str
    hours: float
    todo: str
    passed: str
    caution: str
    minded: bool = False
    rests: tuple[str, ...] = ()


STAGES = {
    stage.name: stage
    for stage in (
        Stage(
            "wood", 1.0, "Choose the stave and look through its list",
            "The stave is chosen; go on to lay-out",
            "Where wood may be cut, and which kinds are protected, local law decides; ask the local"
            " authority.",
        ),
        Stage(
            "lay-out", 1.0, "Mark it out from the marking table",
            "It is marked; go on to roughing out",
            "Dust of wood and bamboo: mask and extraction. Some woods, yew among them, are"
            " poisonous as dust.",
        ),
        Stage(
            "rough", 4.0, "Rough it out and bend it on the floor",
            "It bends on the floor; go on to backing",
            "Edged tools: cut away from hand, string and body, and clamp the stave.",
        ),
        Stage(
            "back", 2.0, "Back it, or break the edges of its plain back",
            "Backed, or left plain; go on to tiller",
            "Glues and solvents: air the room. Ovens and heat boxes need a thermometer and a"
            " cut-out. Open fire: mind fire bans. Electrical work goes to licensed people.",
        ),
        Stage(
            "tiller", 6.0, "Put the string on and write down the first weight",
            "It is tillered; go on to its string",
            "Eye protection on. Stand out of the plane of the bent limbs. Check rope, hook and tree"
            " against their ratings before the pull. Do not hold it drawn.",
            minded=True, rests=("limbs rest unstrung",),
        ),
        Stage(
            "string", 3.0, "Make its string", "It has its string; go on to finish",
            "Cut thread away from the string's body and from the hand. Brace with both feet firm"
            " and the face aside.",
        ),
        Stage(
            "finish", 3.0, "Sand, round and coat it", "It is finished; go on to proof",
            "Oily rags heat up by themselves: spread them flat outdoors to dry, or keep them in"
            " water. Air the room.",
            minded=True, rests=("coat of oil dries",) * 3,
        ),
        Stage(
            "proof", 2.0, "Weigh it, shoot it in and write down the proof",
            "It is proved; close the build",
            "Never let go of a drawn string without an arrow. Draw a new bow in stages, towards a"
            " safe backstop. Heavy weights hurt shoulders. Hunting, carrying and least weights:"
            " local law decides; ask the local authority.",
            minded=True,
        ),
    )
}  # fmt: skip
NAMES = tuple(STAGES)


def since(stage: str) -> tuple[Stage, ...]:
    """A stage and those after it."""
    return tuple(STAGES[name] for name in NAMES[NAMES.index(stage) :])
