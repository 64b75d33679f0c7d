"""What belongs to the sample bow of an empty shop, so that it can be thrown away whole."""

from django.db import models


class SampleRow(models.Model):
    """A row of the sample bow, by its model's label and its key."""

    label = models.CharField(max_length=40)
    key = models.PositiveBigIntegerField()

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["label", "key"], name="one_sample_row")]

    def __str__(self) -> str:
        return f"sample {self.label} {self.key}"
