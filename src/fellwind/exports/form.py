"""The form a stack is pressed over, and its caul, at full size; the grinding table of its lams."""

from __future__ import annotations

import csv
from dataclasses import dataclass
from io import StringIO

import numpy as np

from bowyery.arrays import Floats
from bowyery.bow.bow import SIDES
from bowyery.design.solution import Solution
from bowyery.errors import DescriptionError
from bowyery.making.laminating import form_of, lams_of
from bowyery.units.quantity import INCH
from fellwind.exports.template import CHECK

BLOCK = 40.0  # of wood under the form's lowest place, and over the caul's highest (mm)
DEEPEST = 95.0  # that a page lying along the bow holds between form and caul (mm)


@dataclass(frozen=True)
class FormShape:
    """Form and caul in mm on the bow's ruler: 0 at the centre, upper limb positive, the back up.

    Attributes:
        belly, back: edges of form and caul, ``(places, 2)``, from the lower end to the upper.
        marks: where the riser ends and the nocks lie.
    """

    belly: Floats
    back: Floats
    marks: tuple[tuple[float, str], ...]

    @property
    def reach(self) -> tuple[float, float]:
        """Lower and upper end (mm)."""
        return float(self.belly[0, 0]), float(self.belly[-1, 0])

    @property
    def deep(self) -> float:
        """From the form's lowest edge to the caul's highest (mm)."""
        return float(self.back[:, 1].max() - self.belly[:, 1].min())

    def block(self) -> list[tuple[float, float]]:
        """The form, closed along its foot."""
        foot = float(self.belly[:, 1].min()) - BLOCK
        edge = [(float(x), float(y)) for x, y in self.belly]
        return [*edge, (edge[-1][0], foot), (edge[0][0], foot)]

    def caul(self) -> list[tuple[float, float]]:
        """The pressing caul, closed along its head."""
        head = float(self.back[:, 1].max()) + BLOCK
        edge = [(float(x), float(y)) for x, y in self.back]
        return [*edge, (edge[-1][0], head), (edge[0][0], head)]

    def placed(self, high: float) -> tuple[float, list[tuple[list[tuple[float, float]], float]]]:
        """Where the bow's line lies on a page so high (mm), and form and caul on it."""
        middle = high - 30 - BLOCK - float(self.back[:, 1].max())
        return middle, [(self.block(), middle), (self.caul(), middle)]


def form_shape(found: Solution) -> FormShape:
    """Form and caul of a laminated bow.

    Raises:
        DescriptionError: it is not laminated, or springs back too far.
    """
    belly: list[Floats] = []
    back: list[Floats] = []
    for number, sign in ((1, -1.0), (0, 1.0)):
        form = form_of(found.bow, number)
        for edges, rows in ((form.belly, belly), (form.back, back)):
            points = 1000 * np.stack([sign * edges[:, 0], -edges[:, 1]], 1)
            rows.append(points[::-1] if sign < 0 else points)
    marks = []
    for name, limb, sign in zip(SIDES, found.bow.limbs, (1.0, -1.0), strict=True):
        root = sign * limb.root[0] * 1000
        marks.append((root, f"{name} limb bends from here"))
        edge = np.concatenate(belly)
        marks.append((float(edge[-1 if sign > 0 else 0, 0]), f"{name} nock"))
    return FormShape(np.concatenate(belly), np.concatenate(back), tuple(sorted(marks)))


def for_paper(found: Solution) -> FormShape:
    """The same, where a page is high enough for it.

    Raises:
        DescriptionError: it is too deep for a page.
    """
    shape = form_shape(found)
    if shape.deep > DEEPEST:
        raise DescriptionError(
            f"This form is {shape.deep:.0f} mm deep, more than a page lying along it holds; take"
            " the cutting file, or have it printed on a roll.",
            "form",
        )
    return shape


def form_dxf(found: Solution, name: str) -> bytes:
    """Form and caul as closed lines in millimetres, each on a layer of its own."""
    from ezdxf import units as dxf_units  # slow to load
    from ezdxf.filemanagement import new as new_drawing

    shape = form_shape(found)
    document = new_drawing("R2010", setup=True)
    document.units = dxf_units.MM
    space = document.modelspace()
    for layer, points in (("FORM", shape.block()), ("CAUL", shape.caul())):
        document.layers.add(layer)
        space.add_lwpolyline(points, close=True, dxfattribs={"layer": layer})
    document.layers.add("MARKS")
    for at, said in ((0.0, name), *shape.marks):
        space.add_line((at, -4), (at, 4), dxfattribs={"layer": "MARKS"})
        space.add_text(said, height=3, dxfattribs={"layer": "MARKS"}).set_placement((at + 1, 5))
    text = StringIO()
    document.write(text)
    return text.getvalue().encode("utf-8")


def lams_csv(found: Solution) -> str:
    """The grinding table: every lam at every station, in millimetres and in inches.

    Raises:
        DescriptionError: the bow is of one piece.
    """
    if not found.layered:
        raise DescriptionError("A bow of one piece has no lams.", "layers")
    file = StringIO()
    out = csv.writer(file)
    out.writerow(["limb", "lam", "role", "material", "from_root_mm", "thickness_mm",
                  "from_root_in", "thickness_in", "taper_in_per_in"])  # fmt: skip
    for side, limb in zip(SIDES, found.bow.limbs, strict=True):
        for number, lam in enumerate(lams_of(limb), 1):
            for at, thick in zip(lam.at, lam.thickness, strict=True):
                out.writerow([
                    side, number, lam.role, lam.material, f"{at * 1000:.1f}", f"{thick * 1000:.3f}",
                    f"{at / INCH:.3f}", f"{thick / INCH:.4f}", f"{lam.taper:.5f}",
                ])  # fmt: skip
    return file.getvalue()


__all__ = ["CHECK", "FormShape", "for_paper", "form_dxf", "form_shape", "lams_csv"]
