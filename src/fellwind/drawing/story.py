"""A bow's story as one line: how long each stage was worked on, and when it began."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.utils.safestring import SafeString

from fellwind.drawing import svg

WIDTH, LEFT, RIGHT = 960.0, 16.0, 944.0
BAND = (46.0, 26.0)  # top and height of the stages
LEAST = 56.0  # a stage is no narrower, so that it can be read
APART = 96.0  # of words above the line


@dataclass(frozen=True)
class Chapter:
    """A stage: its name, minutes spent, the same in words, and the day it began."""

    stage: str
    minutes: int
    took: str
    first: str


def story_picture(chapters: Sequence[Chapter]) -> SafeString:
    """The stages in order, each as wide as the time it took but wide enough to be read.

    Args:
        chapters: those that anything was written in.
    """
    spent = sum(one.minutes for one in chapters)
    free = RIGHT - LEFT - LEAST * len(chapters)
    parts: list[str] = []
    x, said = LEFT, -APART
    top, high = BAND
    for k, one in enumerate(chapters):
        share = one.minutes / spent if spent else 1 / len(chapters)
        wide = LEAST + free * share
        parts.append(svg.rect(x, top, wide - 2, high, "story-done" if k % 2 else "story-other"))
        parts.append(svg.text((x + 6, top + 18), one.stage, "small strong"))
        took = one.took or "no time"
        row = top + high + (18 if k % 2 == 0 else 36)
        parts.append(svg.line((x + 1, top + high), (x + 1, row + 4), "rule"))
        parts.append(svg.text((x + 6, row), took, "small muted"))
        if x - said >= APART:
            parts.append(svg.text((x, top - 12), one.first, "small muted"))
            said = x
        x += wide
    lines = "; ".join(f"{one.stage} {one.took or 'no time noted'}" for one in chapters)
    return svg.picture(WIDTH, 124, parts, f"Time on the bench by stage: {lines}.", "story-picture")
