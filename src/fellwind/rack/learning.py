"""What strips bent over two supports show of a wood's modulus."""

import math

from bowyery.errors import BowyeryError
from bowyery.record.learned import Evidence
from fellwind.kit.ports import EVIDENCE
from fellwind.rack.models import StripTest
from fellwind.rack.services import own_figures
from fellwind.shop.book import material
from fellwind.shop.learning import days

STRIP = 0.04  # by which one strip differs from its stave


@EVIDENCE["modulus"].answered_by
def moduli() -> list[Evidence]:
    """The log of each strip's modulus over the book's."""
    found = []
    for test in StripTest.objects.select_related("stave").order_by("pk"):
        stave = test.stave
        try:
            own, book = own_figures(stave, test), material(stave.material).modulus
        except BowyeryError:
            continue
        error = math.hypot(own.modulus_error / own.modulus, STRIP)
        found.append(Evidence(
            math.log(own.modulus / book), error, stave.material, stave.grew_on, 0, "",
            days(test.written), f"a strip of stave {stave.number}",
        ))  # fmt: skip
    return found
