"""What is glued or bound on: a backing, a patch, overlays, a crack mended; and edges eased."""

from __future__ import annotations

from bowyery.bow.bow import SIDES, Bow
from bowyery.design.alterations import backed, patched
from bowyery.errors import BowyeryError, UnreadableError
from bowyery.tiller.changes import Act
from bowyery.tiller.kinds.act import (
    GLUE_CARE,
    ONE_LIMB,
    act_of,
    limb_words,
    stretch_words,
)
from bowyery.tiller.kinds.kind import ActKind, Help, Press
from bowyery.tiller.statements import Context, Statement, Tree
from bowyery.units.quantity import THICKNESS, Units
from bowyery.wood.materials import material

SHRINKS = 0.12  # even bend a drying backing may pull into limbs, one deviation (1/m)


def _laid_on(c: Context) -> tuple[Statement, ...]:
    (said,) = act_of("backing", "laid on", "no thickness of a backing", how="material")(c)
    try:
        material(said.how)
    except BowyeryError:
        raise UnreadableError(
            f"“{c.part}”: “{said.how}” is not in the book; write for example rawhide, sinew, linen"
            " or bamboo."
        ) from None
    return (said,)


def _on_the_belly(bow: Bow, act: Act) -> Bow:
    if act.limb is None:
        return bow
    root = bow.limbs[SIDES.index(act.limb)].root[0]
    start, end = (act.start or 0.0) - root, (act.end or 0.0) - root
    return patched(bow, act.limb, max(0.0, start), end, act.value or 0.0)


def _say_patch(s: Statement, tree: Tree, shown: Units) -> str:
    thick = THICKNESS.write(s.value or 0.0, shown)
    return f"a patch of {thick} on {limb_words(s)}{stretch_words(s, shown)}"


def _say_mended(s: Statement, tree: Tree, shown: Units) -> str:
    return f"{limb_words(s)} {s.how or 'mended'}{stretch_words(s, shown)}"


ROWS = (
    ActKind(
        name="backing",
        build=_laid_on,
        say=lambda s, tree, shown: (
            f"{THICKNESS.write(s.value or 0.0, shown)} {s.how} laid on the back"
        ),
        forms=("backing {material} {amount}",),
        helps=(
            Help("a backing laid on, dried thickness", "backing rawhide 1/32", "backing rawhide 1",
                 "backing"),
        ),
        done=lambda bow, act: backed(bow, material(act.how), act.value or 0.0),
        sized=True,
        bent=lambda limb, act: SHRINKS,
        doubt=(0.10, 0.04),
        again=("tiller", "weight"),
        presses=(
            Press("backing", "Backing laid on", "backing {material} {thickness}",
                  ("material", "thickness"), (), GLUE_CARE),
        ),
    ),
    ActKind(
        name="patch",
        build=act_of("patch", "patch", "no thickness of a patch"),
        say=_say_patch,
        forms=(
            "patch {limb} {amount} from {start} to {end}",
            r"patch {limb} {amount} {start}\s*(?:to|–|-) {end}",
        ),
        helps=(
            Help("a patch glued on the belly", "patch upper 1/16 10 to 14",
                 "patch upper 1.5 250 to 350", "patch"),
        ),
        done=_on_the_belly,
        sized=True,
        doubt=(0.0, 0.08),
        again=("tiller", "weight"),
        badge="patch",
        presses=(
            Press("patch", "Patch glued on", "patch {limb} {thickness} from{stretch}",
                  ("thickness", "start", "end"), ONE_LIMB, GLUE_CARE),
        ),
    ),
    ActKind(
        name="overlay",
        build=act_of("overlay"),
        say=lambda s, tree, shown: f"overlays on the tips of {limb_words(s)}",
        forms=("overlays?[ {limbs}]",),
        helps=(Help("tip overlays put on", "overlay both", "overlay both", "overlay"),),
        presses=(Press("overlay", "Tip overlays put on", "overlay {limb}", care=GLUE_CARE),),
    ),
    ActKind(
        name="mended",
        build=act_of("mended"),
        say=_say_mended,
        forms=(
            r"(?P<how>flooded|bound) {limb} {place}",
            r"(?P<how>flooded|bound) {limb} {start}\s*(?:to|–|-) {end}",
        ),
        helps=(
            Help("a crack flooded with thin glue, or bound", "bound upper 14",
                 "flooded lower 300 to 360", "flooded|bound"),
        ),
        doubt=(0.0, 0.06),
        badge="mended",
        presses=(
            Press("flooded", "Crack flooded", "flooded {limb}{where}", ("start", "end?"), ONE_LIMB,
                  GLUE_CARE),
            Press("bound", "Crack or splinter bound", "bound {limb}{where}", ("start", "end?"),
                  ONE_LIMB),
        ),
    ),
)  # fmt: skip
