"""A stand-in camera: pictures of bows from the core's own shapes, and how well they are read.

Run by hand:

    python benchmarks/camera.py [PICTURES] [FIRST] [--taps | --state braced] [--show FOLDER]

A bow hangs in front of a wall of planks or plaster with tools, shadows and a lamp on one side; a
phone takes it from 2.5 to 5 m away, up to 20° askew and turned by a few degrees, with perspective,
a little distortion, a lens that blurs, noise, and JPEG. Four to six tag pages hang anywhere on the
wall. Limbs are uneven as wood is, and drawn to wherever it happens; a rope and a hand are in the
way.
"""

from __future__ import annotations

import os

for threads in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ.setdefault(threads, "1")

import argparse  # noqa: E402
import sys  # noqa: E402
from dataclasses import dataclass, replace  # noqa: E402
from functools import cache  # noqa: E402
from pathlib import Path  # noqa: E402
from time import perf_counter  # noqa: E402
from typing import Any  # noqa: E402

import cv2  # noqa: E402
import numpy as np  # noqa: E402

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]

from bowyery.bow.bow import SIDES, Bow  # noqa: E402
from bowyery.bow.layout import METRIC_ROUNDING, Layout, Wanted  # noqa: E402
from bowyery.bow.limb_grid import LimbGrid, grid  # noqa: E402
from bowyery.design.solution import Solution  # noqa: E402
from bowyery.design.solve import solve_design  # noqa: E402
from bowyery.mechanics.elastica import shapes  # noqa: E402
from bowyery.mechanics.statics import brace_bow, draw  # noqa: E402
from bowyery.sight.outline import STATES, run_along  # noqa: E402
from bowyery.sight.trace import Trace, trace  # noqa: E402
from bowyery.units.quantity import INCH, POUND_FORCE  # noqa: E402
from bowyery.wood.materials import at_moisture, material  # noqa: E402

TAG, PAGE = 120.0, (210.0, 297.0)  # mm
WIDE, HIGH = 4000, 3000
DESIGNS = {
    "flatbow": (Layout(68 * INCH), Wanted(42 * POUND_FORCE, 27 * INCH)),
    "longbow": (
        Layout(74 * INCH, width=1.4 * INCH, parallel=0.4),
        Wanted(50 * POUND_FORCE, 28 * INCH),
    ),
    "short": (Layout(60 * INCH, width=2.0 * INCH), Wanted(35 * POUND_FORCE, 24 * INCH)),
    "reflexed": (Layout(68 * INCH, reflex=0.02), Wanted(40 * POUND_FORCE, 27 * INCH)),
}


@cache
def solved(name: str) -> Solution:
    """A design, solved once."""
    layout, wanted = DESIGNS[name]
    return solve_design(layout, wanted, at_moisture(material("wych elm"), 0.09), METRIC_ROUNDING)


@dataclass(frozen=True)
class Truth:
    """What is true of a picture.

    Attributes:
        bow: as designed.
        state: drawn, braced or unstrung.
        limbs: centre of both limbs' side view, upper and lower, from root to nock (mm).
        nock: nocking point (mm), None where it is unstrung.
        draw: (mm), 0 unless it is drawn.
        taps: upper nock, upper fade, nocking point, lower fade, lower nock (pixels).
    """

    bow: Bow
    state: str
    limbs: tuple[np.ndarray, np.ndarray]
    nock: tuple[float, float] | None
    draw: float
    taps: np.ndarray


def _shape(found: Solution, state: str, rng: np.random.Generator) -> tuple[Any, ...]:
    """Limbs (mm, from root to nock), nocking point and draw of a bow as uneven as wood is."""
    bow = found.bow
    limbs = grid(bow, 64)
    at = limbs.places()[:, 0]
    field = np.zeros_like(at)
    for side in (0, 1):
        for long in (0.12, 0.25, 0.5):
            field[side] += (
                0.09 * rng.standard_normal() * np.cos(2 * np.pi * (at[side] / long + rng.uniform()))
            )
        field[side] += 0.12 * rng.standard_normal()
    varied = limbs.stiffened(np.exp(field)[:, None])
    crook = 0.04 * rng.standard_normal() + 0.04 * rng.standard_normal((2, 1))
    varied = replace(varied, curvature=varied.curvature + crook[:, None])
    if state != "drawn":
        return shape_of(varied, bow, state, 0.0)
    least = float(brace_bow(varied, bow).least_draw[0])
    to = least + rng.uniform(0.35, 1.0) * (found.wanted.draw - least)
    return shape_of(varied, bow, state, to)


def shape_of(limbs: LimbGrid, bow: Bow, state: str, to: float) -> tuple[Any, ...]:
    """A bow as it is bent.

    Args:
        limbs: its grid, a batch of one.
        bow: for hold and string.
        state: drawn, braced or unstrung.
        to: draw, to the pivot (m).

    Returns:
        Limbs along and across from root to nock, ``(2, n)``, nocking point and draw (m).
    """
    if state == "unstrung":
        still = np.zeros((2, 1))
        rest = shapes(limbs, still, still)
        return rest.along[:, 0], rest.across[:, 0], None, 0.0
    braced = brace_bow(limbs, bow)
    if state == "braced":
        bent = shapes(limbs, np.stack([braced.tension] * 2), braced.p)
        pivot = bow.hold.pivot
        nock = pivot[0], pivot[1] + float(braced.height[0])
        return bent.along[:, 0], bent.across[:, 0], nock, 0.0
    drawn = draw(limbs, bow.hold, braced, np.array([to]))
    bent = shapes(limbs, drawn.tension, drawn.p)
    nock = float(drawn.nock[0, 0]), float(drawn.nock[1, 0])
    return bent.along[:, 0], bent.across[:, 0], nock, to


def _wall(rng: np.random.Generator, mm: float) -> tuple[np.ndarray, float]:
    """A wall of 3.4 by 2.6 m with its clutter, and its pixels a mm."""
    per = 1 / mm
    high, wide = int(2600 * per), int(3400 * per)
    base = rng.uniform(110, 215) * np.array([rng.uniform(0.8, 1.0), rng.uniform(0.9, 1.0), 1.0])
    wall = np.ones((high, wide, 3), np.float32) * base
    kind = rng.integers(3)
    if kind == 0:  # planks
        pitch = int(rng.uniform(90, 180) * per)
        upright = rng.uniform() < 0.5
        for k in range(0, wide if upright else high, pitch):
            tone = 1 + 0.10 * rng.standard_normal()
            if upright:
                wall[:, k : k + pitch] *= tone
                wall[:, k : k + max(2, int(3 * per))] *= 0.55
            else:
                wall[k : k + pitch] *= tone
                wall[k : k + max(2, int(3 * per))] *= 0.55
    elif kind == 1:  # stripes
        pitch = int(rng.uniform(60, 140) * per)
        for k in range(0, wide, pitch):
            wall[:, k : k + pitch // 2] *= rng.uniform(0.75, 0.95)
    small = rng.normal(0, 1, (high // 24 + 2, wide // 24 + 2)).astype(np.float32)
    wall *= 1 + 0.06 * cv2.resize(small, (wide, high), interpolation=cv2.INTER_CUBIC)[..., None]
    wall += rng.normal(0, 2.5, (high, wide, 1)).astype(np.float32)
    for _ in range(int(rng.integers(4, 10))):  # tools, hooks, shelves
        x, y = rng.uniform(0, wide), rng.uniform(0, high)
        colour = tuple(float(c) for c in rng.uniform(20, 230, 3))
        angle, long, broad = rng.uniform(0, 180), rng.uniform(100, 500), rng.uniform(6, 60)
        box = cv2.boxPoints(((x, y), (long * per, broad * per), angle)).astype(np.int32)
        cv2.fillPoly(wall, [box], colour, cv2.LINE_AA)
    light = np.linspace(rng.uniform(0.7, 1.0), rng.uniform(0.7, 1.15), wide, dtype=np.float32)
    down = np.linspace(rng.uniform(0.8, 1.1), rng.uniform(0.75, 1.0), high, dtype=np.float32)
    return wall * light[None, :, None] * down[:, None, None], per


def _tags(wall: np.ndarray, per: float, rng: np.random.Generator, count: int,
          clear: np.ndarray) -> None:  # fmt: skip
    """Stick tag pages anywhere that the bow does not hide."""
    known = cv2.aruco.getPredefinedDictionary(cv2.aruco.DICT_APRILTAG_36h11)
    high, wide = wall.shape[:2]
    ids = rng.permutation(12)[:count]
    placed: list[np.ndarray] = []
    for number in ids:
        for _ in range(400):
            spot = np.array([rng.uniform(450, 2950), rng.uniform(350, 2250)])
            if np.min(np.hypot(*(clear - spot).T)) < 150:
                continue
            if all(np.hypot(*(spot - other)) > 330 for other in placed):
                break
        else:
            continue
        placed.append(spot)
        angle = rng.uniform(-6, 6) + 90 * rng.integers(2) * (rng.uniform() < 0.2)
        mark = cv2.aruco.generateImageMarker(known, int(number), 800)
        page = np.full((int(PAGE[1] / TAG * 800), int(PAGE[0] / TAG * 800)), 250, np.uint8)
        top, left = (page.shape[0] - 800) // 3, (page.shape[1] - 800) // 2
        page[top : top + 800, left : left + 800] = mark
        scale = TAG / 800 * per
        turn = cv2.getRotationMatrix2D((left + 400, top + 400), angle, scale)
        turn[:, 2] += spot * per - np.array([left + 400, top + 400])
        over = cv2.warpAffine(page, turn, (wide, high), flags=cv2.INTER_AREA, borderValue=0)
        mask = cv2.warpAffine(np.full_like(page, 255), turn, (wide, high), borderValue=0) > 127
        tone = wall.mean() / 165
        wall[mask] = (over[mask, None] * min(tone, 1.05)).astype(np.float32)


def picture(number: int, state: str = "drawn", tags: bool = True) -> tuple[np.ndarray, Truth]:
    """Take a picture.

    Args:
        number: of it; everything follows from it.
        state: drawn, braced or unstrung.
        tags: pages hang on the wall.

    Returns:
        The picture (BGR) and what is true of it.
    """
    rng = np.random.default_rng([41, number])
    found = solved(list(DESIGNS)[number % len(DESIGNS)])
    return taken(rng, found.bow, state, _shape(found, state, rng), tags)


def taken(
    rng: np.random.Generator, bow: Bow, state: str, shape: tuple[Any, ...], tags: bool = True
) -> tuple[np.ndarray, Truth]:
    """Take a picture of a bow as it is bent.

    Args:
        rng: of wall, camera and light.
        bow: as its file marks it.
        state: drawn, braced or unstrung.
        shape: limbs along and across from root to nock, ``(2, n)``, nocking point and draw (m).
        tags: pages hang on the wall.

    Returns:
        The picture (BGR) and what is true of it.
    """
    along, across, nock, to = shape
    # on the wall plane (mm): middle of the bow, a little tilted
    middle = np.array([1700 + 60 * rng.standard_normal(), 900 + 60 * rng.standard_normal()])
    tilt = np.radians(1.5 * rng.standard_normal())
    turn = np.array([[np.cos(tilt), -np.sin(tilt)], [np.sin(tilt), np.cos(tilt)]])

    def placed(points: np.ndarray) -> np.ndarray:
        return np.asarray(points) @ turn.T + middle

    lines = []
    for side in (0, 1):
        a = along[side] * 1e3
        lines.append(np.stack([a, across[side] * 1e3], 1))
    if lines[1][-1, 0] > 0:
        lines[1][:, 0] *= -1
    thick = [
        np.interp(np.linspace(0, limb.length, len(lines[k])), limb.at, limb.thickness) * 1e3
        for k, limb in enumerate(bow.limbs)
    ]
    full = [placed(line) for line in lines]
    mm = 0.9
    wall, per = _wall(rng, mm)
    clear = np.concatenate([*full, placed(np.array([[0.0, 0.0]]))])
    if nock is not None:
        clear = np.concatenate([clear, placed(np.array([nock]) * 1e3)])
    if tags:
        _tags(wall, per, rng, int(rng.integers(4, 7)), clear)
    # the camera
    far = rng.uniform(2500, 5000)
    yaw, pitch, roll = np.radians([rng.uniform(-17, 17), rng.uniform(-10, 10), rng.uniform(-3, 3)])
    focal = rng.uniform(0.68, 0.82) * WIDE
    focal = min(focal, 0.9 * WIDE * far / 1950)  # the whole bow is in it
    look = middle + np.array([40 * rng.standard_normal(), 150 + 60 * rng.standard_normal()])
    rotation = (
        cv2.Rodrigues(np.array([0, yaw, 0]))[0] @ cv2.Rodrigues(np.array([pitch, 0, 0]))[0]
        @ cv2.Rodrigues(np.array([0, 0, roll]))[0]
    )  # fmt: skip
    # wall: x right, y down, z into the wall; the camera looks along its own z
    centre = np.array([look[0], look[1], 0.0]) - rotation @ np.array([0, 0, far])
    bend = rng.uniform(-0.02, 0.02)

    def project(points: np.ndarray, before: float) -> np.ndarray:
        """Points on a plane so far before the wall (mm) to pixels."""
        flat = np.atleast_2d(points)
        world = np.column_stack([flat, np.full(len(flat), -before)])
        seen = (world - centre) @ rotation
        x, y = seen[:, 0] / seen[:, 2], seen[:, 1] / seen[:, 2]
        r2 = x * x + y * y
        k = 1 + bend * r2
        return np.column_stack([focal * x * k + WIDE / 2, focal * y * k + HIGH / 2])

    # warp the wall by a dense map, as the lens bends it
    step = 8
    u, v = np.meshgrid(np.arange(0, WIDE + step, step), np.arange(0, HIGH + step, step))
    x, y = (u - WIDE / 2) / focal, (v - HIGH / 2) / focal
    for _ in range(4):
        r2 = x * x + y * y
        x, y = (
            ((u - WIDE / 2) / focal) / (1 + bend * r2),
            ((v - HIGH / 2) / focal) / (1 + bend * r2),
        )
    rays = np.stack([x, y, np.ones_like(x)], -1) @ rotation.T
    reach = -centre[2] / rays[..., 2]
    map_x = ((centre[0] + reach * rays[..., 0]) * per).astype(np.float32)
    map_y = ((centre[1] + reach * rays[..., 1]) * per).astype(np.float32)
    map_x = cv2.resize(map_x, (map_x.shape[1] * step, map_x.shape[0] * step))[:HIGH, :WIDE]
    map_y = cv2.resize(map_y, (map_y.shape[1] * step, map_y.shape[0] * step))[:HIGH, :WIDE]
    image = cv2.remap(wall, map_x, map_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    before = rng.uniform(60, 180)
    _hang(image, rng, project, before, full, thick, nock, placed, bow, state)
    image = cv2.GaussianBlur(image, (0, 0), rng.uniform(0.7, 1.6))
    edge = np.hypot(*np.meshgrid(np.linspace(-1, 1, WIDE), np.linspace(-0.75, 0.75, HIGH)))
    image *= (1 - 0.18 * edge**2)[..., None].astype(np.float32)
    image += rng.normal(0, rng.uniform(2, 6), image.shape).astype(np.float32)
    small = np.clip(image, 0, 255).astype(np.uint8)
    coded = cv2.imencode(".jpg", small, [cv2.IMWRITE_JPEG_QUALITY, int(rng.integers(82, 96))])[1]
    seen = cv2.imdecode(coded, cv2.IMREAD_COLOR)
    taps = np.zeros((5, 2))
    taps[0], taps[1] = project(full[0][-1:], before)[0], project(full[0][:1], before)[0]
    taps[3], taps[4] = project(full[1][:1], before)[0], project(full[1][-1:], before)[0]
    if nock is not None:
        taps[2] = project(placed(np.array([nock]) * 1e3), before)[0]
    truth = Truth(
        bow, state, (lines[0], lines[1]), None if nock is None else (nock[0] * 1e3, nock[1] * 1e3),
        to * 1e3, taps,
    )  # fmt: skip
    return seen, truth


def _hang(image: np.ndarray, rng: np.random.Generator, project: Any, before: float, full: Any,
          thick: Any, nock: Any, placed: Any, bow: Bow, state: str) -> None:  # fmt: skip
    """Draw the bow before the wall: its shadow, limbs, handle, string, rope and hand."""
    wood = rng.uniform(50, 200) * np.array([rng.uniform(0.45, 0.7), rng.uniform(0.65, 0.85), 1.0])

    def band(line: np.ndarray, sizes: np.ndarray) -> np.ndarray:
        way = np.gradient(line, axis=0)
        normal = np.stack([-way[:, 1], way[:, 0]], 1) / np.hypot(*way.T)[:, None]
        half = 0.5 * sizes[:, None] * normal
        return np.concatenate([line + half, (line - half)[::-1]])

    beyond = 25.0
    bands = []
    for line, sizes in zip(full, thick, strict=True):
        way = line[-1] - line[-2]
        end = line[-1] + beyond * way / np.hypot(*way)
        bands.append(band(np.vstack([line, end]), np.append(sizes, 0.9 * sizes[-1])))
    handle = placed(
        np.array([[-bow.lower.root[0], -thick[1][0] / 2e3], [bow.upper.root[0], -thick[0][0] / 2e3],
                  [bow.upper.root[0], thick[0][0] / 2e3], [0.55 * bow.upper.root[0], 0.036],
                  [-0.55 * bow.lower.root[0], 0.036],
                  [-bow.lower.root[0], thick[1][0] / 2e3]]) * 1e3
    )  # fmt: skip
    bands.append(handle)
    scale = 16  # parts of a pixel
    shade = image.copy()
    slip = np.array([rng.uniform(-70, 70), rng.uniform(10, 90)])
    for one in bands:
        flat = project(one + slip, 0.0) * scale
        cv2.fillPoly(shade, [flat.astype(np.int32)], (0, 0, 0), cv2.LINE_AA, 4)
    mask = cv2.GaussianBlur((np.abs(shade - image).sum(-1) > 3).astype(np.float32), (0, 0), 9)
    image *= (1 - rng.uniform(0.1, 0.4) * mask)[..., None]
    for one in bands:
        flat = (project(one, before) * scale).astype(np.int32)
        cv2.fillPoly(image, [flat], tuple(float(c) for c in wood), cv2.LINE_AA, 4)
    grain = cv2.resize(rng.normal(0, 1, (HIGH // 6, WIDE // 24)).astype(np.float32), (WIDE, HIGH))
    where = np.zeros(image.shape[:2], np.uint8)
    for one in bands:
        cv2.fillPoly(where, [(project(one, before) * scale).astype(np.int32)], 255, cv2.LINE_AA, 4)
    image *= 1 + (0.07 * grain * (where > 0))[..., None]
    if state == "unstrung" or nock is None:
        return
    tone = rng.uniform(15, 235)
    cord = tuple(float(tone * c) for c in (0.95, 1.0, 1.0))
    mid = placed(np.array([nock]) * 1e3)[0]
    sizes = rng.uniform(2.2, 3.2)
    ends = [full[0][-1], full[1][-1]]
    for end in ends:
        two = np.array([mid, end])
        if state == "braced":
            two = np.array([ends[0], ends[1]])
        way = two[1] - two[0]
        side = np.array([-way[1], way[0]]) / np.hypot(*way) * sizes / 2
        flat = project(
            np.array([two[0] + side, two[1] + side, two[1] - side, two[0] - side]), before
        )
        cv2.fillPoly(image, [(flat * scale).astype(np.int32)], cord, cv2.LINE_AA, 4)
    if state != "drawn":
        return
    rope = np.array([mid, mid + np.array([rng.uniform(-60, 60), 1500.0])])
    side = np.array([7.0, 0.0])
    flat = project(
        np.array([rope[0] + side, rope[1] + side, rope[1] - side, rope[0] - side]), before
    )
    cv2.fillPoly(image, [(flat * scale).astype(np.int32)], (90.0, 130.0, 160.0), cv2.LINE_AA, 4)
    if rng.uniform() < 0.6:
        spot = project(
            (mid + np.array([rng.uniform(-30, 30), rng.uniform(30, 200)]))[None], before
        )[0]
        cv2.ellipse(image, (int(spot[0]), int(spot[1])), (70, 50), rng.uniform(0, 90), 0, 360,
                    (120.0, 150.0, 205.0), -1, cv2.LINE_AA)  # fmt: skip


def misses(found: Trace, truth: Truth) -> tuple[np.ndarray, np.ndarray]:
    """How far each point that was read lies from the limb, and what was said of it.

    Args:
        found: what was read.
        truth: what was pictured.

    Returns:
        Both for all points of the upper limb, then of the lower, ``(n,)`` (mm).
    """
    errors, said = [], []
    for side, name in enumerate(SIDES):
        read, drawn = found.limbs[name], truth.limbs[side]
        there, here = _run(drawn), _run(read[:, :2])
        line = np.stack([np.interp(here, there, drawn[:, k]) for k in (0, 1)], 1)
        errors.append(np.hypot(*(read[:, :2] - line).T))
        said.append(read[:, 2])
    return np.concatenate(errors), np.concatenate(said)


def _run(line: np.ndarray) -> np.ndarray:
    way = run_along(line)
    return np.asarray(way / way[-1])


def main() -> None:
    """Read some pictures and print how well."""
    parser = argparse.ArgumentParser()
    parser.add_argument("pictures", type=int, nargs="?", default=16)
    parser.add_argument("first", type=int, nargs="?", default=0)
    how = parser.add_mutually_exclusive_group()
    how.add_argument("--taps", action="store_true", help="no tags; taps some pixels off")
    how.add_argument("--state", choices=STATES, default="drawn", help="also what is not trusted")
    parser.add_argument("--show", type=Path, help="folder that the pictures are written to")
    given = parser.parse_args()
    print("| picture | rms mm | worst mm | within its bands | draw off mm | seconds |")
    print("| --- | --- | --- | --- | --- | --- |")
    means, held = [], []
    for number in range(given.first, given.first + given.pictures):
        image, truth = picture(number, given.state, not given.taps)
        taps = None
        if given.taps:
            taps = truth.taps + np.random.default_rng(number).normal(0, 4, (5, 2))
        if given.show:
            cv2.imwrite(str(given.show / f"{number}.jpg"), image)
        began = perf_counter()
        found = trace(image, truth.bow, given.state, taps)
        took = perf_counter() - began
        if not found.found:
            print(f"| {number} | {found.why} | | | | {took:.1f} |")
            continue
        errors, said = misses(found, truth)
        means.append(float(np.sqrt(np.mean(errors**2))))
        held.append(float(np.mean(errors <= said)))
        draw_off = "" if found.draw is None else f"{found.draw - truth.draw:+.0f}"
        print(f"| {number} | {means[-1]:.2f} | {errors.max():.1f} | {held[-1]:.0%} | {draw_off}"
              f" | {took:.1f} |")  # fmt: skip
    if means:
        print(f"\nread {len(means)} of {given.pictures}; rms in the median {np.median(means):.2f},"
              f" in the mean {np.mean(means):.2f}, at worst {max(means):.2f} mm; bands held"
              f" {np.mean(held):.0%}")  # fmt: skip


if __name__ == "__main__":
    main()
