"""The demo workshop's staves with their readings, flaws and pictures, and the room's screens."""

import numpy as np
from PIL import Image

from bowyery.units.quantity import INCH, fraction_text
from fellwind.kit.photos import keep_photo
from fellwind.rack.models import Flaw, Photo, Section, Stave, Weighing
from scripts.demo.moment import DemoShop
from scripts.demo.people import maker


def _end_grain(half: bool, bark: tuple[int, int, int]) -> Image.Image:
    """A drawn end of a log half or a sapling: rings that waver round the pith, bark, and checks
    that run from it.
    """
    noise = np.random.default_rng(7)
    y, x = np.mgrid[-1:1:480j, -1:1:640j] * np.array([1.0, 640 / 480])[:, None, None]
    radius, angle = (
        np.hypot(x, y + (0.55 if half else 0.0)),
        np.arctan2(y + (0.55 if half else 0.0), x),
    )
    wavering = (
        radius
        * (1 + 0.03 * np.sin(3 * angle + 1) + 0.015 * np.sin(7 * angle))
        / (1.35 if half else 0.85)
    )
    ring = (wavering * 17) % 1.0
    light = 0.78 - 0.28 * ring**4 + noise.normal(0, 0.03, x.shape) - 0.12 * (wavering < 0.55)
    check = (np.abs(angle - 1.2) < 0.012 / (radius + 0.05)) & (wavering < 0.5)
    light = np.where(check, 0.15, light)
    wood = light[..., None] * np.array([222, 188, 142])
    wood = np.where(
        (wavering > 0.93)[..., None], np.array(bark) * (0.8 + 0.3 * ring[..., None]), wood
    )
    outside = (wavering > 1.0) | (half & (y < -0.5))
    return Image.fromarray(np.where(outside[..., None], 236.0, wood).clip(0, 255).astype(np.uint8))


class _Rack:
    """Writes staves as a maker would have, some days ago."""

    def __init__(self, demo: DemoShop) -> None:
        self.demo, self.maker = demo, maker()

    def stave(
        self,
        number: int,
        kind: str,
        material: str,
        size: tuple[float, float, float],
        days: float,
        **extra: object,
    ) -> Stave:
        length, width, depth = size
        return Stave.objects.create(
            number=number,
            kind=kind,
            material=material,
            length=length * INCH,
            length_text=f"{fraction_text(length, 4)} in",
            width=width * INCH,
            width_text=f"{fraction_text(width, 8)} in",
            depth=depth * INCH,
            depth_text=f"{fraction_text(depth, 8)} in",
            acquired=self.demo.ago(days).date(),
            **extra,
        )

    def flaws(
        self, stave: Stave, *rows: tuple[str, str, float, float, float, float, float]
    ) -> None:
        """Flaws: kind, face, from the left end, off the middle, long, wide, deep (in)."""
        for kind, face, *sizes in rows:
            at, off, long, wide, deep = (s * INCH for s in sizes)
            Flaw.objects.create(
                stave=stave,
                kind=kind,
                face=face,
                at=at,
                off=off,
                length=long,
                width=wide,
                depth=deep,
                by=self.maker,
                text=f"at {fraction_text(at / INCH, 4)} in",
            )

    def sections(self, stave: Stave, **columns: tuple[tuple[float, float], ...]) -> None:
        """Figures across the stave, by name: from the left end, figure (in; twist in degrees)."""
        rows: dict[float, dict[str, float]] = {}
        for name, pairs in columns.items():
            for at, value in pairs:
                rows.setdefault(at, {})[name] = value if name == "twist" else value * INCH
        for at, figures in rows.items():
            Section.objects.create(
                stave=stave,
                at=at * INCH,
                by=self.maker,
                text=f"at {fraction_text(at, 4)} in",
                **figures,
            )

    def readings(self, stave: Stave, *rows: tuple[float, float | None, float | None]) -> None:
        """What scale and meter said: days ago, ounces, per cent."""
        for days, ounces, meter in rows:
            Weighing.objects.create(
                stave=stave,
                day=self.demo.ago(days).date(),
                by=self.maker,
                mass=ounces and ounces * 0.45359237 / 16,
                text="" if ounces is None else f"{ounces} oz",
                meter=meter and meter / 100,
                meter_text="" if meter is None else f"{meter} %",
            )

    def photo(
        self,
        stave: Stave,
        days: float,
        caption: str,
        half: bool,
        bark: tuple[int, int, int],
        at: float | None = None,
    ) -> None:
        """A drawn stand-in for a photograph of a stave's end."""
        name, width, height = keep_photo(_end_grain(half, bark))
        Photo.objects.create(
            stave=stave,
            name=name,
            width=width,
            height=height,
            caption=caption,
            day=self.demo.ago(days).date(),
            by=self.maker,
            at=None if at is None else at * INCH,
        )


def _elm(loader: _Rack) -> None:
    stave = loader.stave(
        14,
        "log split",
        "wych elm",
        (70, 2.5, 2),
        600,
        modulus=11.3e9,
        notes="Felled in a winter gale behind the slip; one pin knot near a tip.",
    )
    loader.readings(stave, (400, 141.0, 13.0), (210, 137.9, 10.5), (25, 136.5, 9.4))
    loader.flaws(
        stave,
        ("pin knot", "back", 64.5, 0.5, 0.3, 0.3, 0.4),
        ("tight knot", "through", 37.5, -0.4, 0.7, 0.6, 1.5),
        ("end check", "back", 0.5, 0.0, 1.0, 0.2, 1.0),
        ("dip", "back", 18.0, 0.3, 2.0, 0.8, 0.1),
    )
    loader.sections(
        stave,
        width=((0, 2.75), (35, 2.5), (70, 2.375)),
        depth=((0, 2.25), (35, 2), (70, 1.875)),
        crown=((0, 5.5), (70, 4.5)),
        side=((17.5, -0.1), (35, -0.2), (52.5, -0.15)),
        twist=((70, 3.0),),
    )
    loader.photo(stave, 598, "Left end as it was split (drawn)", True, (88, 74, 60), 0.0)


def _rowan(loader: _Rack) -> None:
    stave = loader.stave(
        13, "log split", "rowan", (78, 2, 2), 900, notes="White sapwood back, dead straight."
    )
    loader.readings(stave, (500, None, 12.0), (64, None, 9.2))


def _ash(loader: _Rack) -> None:
    stave = loader.stave(
        17,
        "board",
        "european ash",
        (68, 2, 0.875),
        45,
        price="24",
        source="the timber yard across the harbour",
        notes="Grain runs nearly end to end.",
        drift=0.3 * INCH,
        drift_over=36 * INCH,
        ring=0.09 * INCH,
        late_share=0.6,
    )
    loader.readings(stave, (40, None, 9.5), (10, None, 8.8))
    loader.flaws(stave, ("pin knot", "back", 22.0, 0.7, 0.2, 0.2, 0.3))


def _maple(loader: _Rack) -> None:
    stave = loader.stave(
        16, "board", "sugar maple", (74, 2, 0.75), 30, notes="Two strips sawn side by side."
    )
    loader.readings(stave, (28, None, 9.0), (6, None, 8.5))


def _takedown(loader: _Rack) -> None:
    stave = loader.stave(
        15, "board", "wych elm", (40, 1.75, 0.5), 80, notes="Four cores ground from it."
    )
    loader.readings(stave, (60, None, 8.5), (13, None, 7.0))


def _laburnum(loader: _Rack) -> None:
    stave = loader.stave(
        12,
        "log split",
        "laburnum",
        (70, 2, 1.75),
        700,
        sapwood=0.2 * INCH,
        notes="Dark heart, thin pale sapwood; a loose knot a hand from the middle.",
    )
    loader.readings(stave, (300, None, 10.5), (96, None, 8.2))
    loader.flaws(
        stave,
        ("loose knot", "through", 43.0, 0.2, 0.5, 0.5, 1.2),
        ("belly check", "belly", 20.0, 0.0, 3.0, 0.1, 0.3),
    )


def _plum(loader: _Rack) -> None:
    stave = loader.stave(
        18,
        "sapling",
        "plum",
        (52, 1.5, 1.5),
        62,
        notes="Cut green, ends sealed, bark left on.",
        source="a hedge above the slip",
        ring=0.07 * INCH,
    )
    loader.flaws(
        stave,
        ("pin knot", "back", 9.0, 0.3, 0.25, 0.25, 0.3),
        ("tight knot", "back", 50.75, -0.2, 0.5, 0.45, 0.6),
        ("pin knot", "belly", 41.5, 0.1, 0.3, 0.3, 0.4),
        ("hairline", "belly", 20.0, 0.2, 2.5, 0.05, 0.2),
    )
    loader.sections(
        stave,
        crown=((0, 0.8), (52, 0.7)),
        side=((13, -0.5), (26, -0.9), (39, -0.6)),
        twist=((52, 6.0),),
        width=((0, 1.6), (26, 1.5), (52, 1.35)),
        depth=((0, 1.6), (26, 1.5), (52, 1.35)),
    )
    loader.photo(stave, 61, "Cut end before it was sealed (drawn)", False, (96, 62, 58), 52.0)
    loader.readings(
        stave,
        (62, 41.5, None),
        (48, 39.1, 26.0),
        (35, 37.6, None),
        (21, 36.4, 18.0),
        (6, 35.5, 15.5),
    )


def load(demo: DemoShop) -> None:
    """Seven staves."""
    rack = _Rack(demo)
    for fill in (_elm, _rowan, _ash, _maple, _takedown, _laburnum, _plum):
        fill(rack)
