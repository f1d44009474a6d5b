"""Rows that are written once: the database refuses to change or delete them."""

import uuid

from django.db import models

from shop.people.models import User


class AppendOnly(models.Model):
    """A row that is written once. ``entry`` makes a resent form harmless.

    ``by`` is the name as it stood then: it outlives a change of name, and a job that came from a
    file keeps the names of people who never signed in here.
    """

    entry = models.UUIDField(default=uuid.uuid4, editable=False)
    at = models.DateTimeField()
    person = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    by = models.CharField(max_length=120)
    # What was in the axle then, by place: thickness in mm, or holes.
    settings = models.JSONField(default=dict)
    # It came in with a file: who did it is what the file says, not what this shop knows.
    from_file = models.BooleanField(default=False)

    class Meta:
        abstract = True

    @property
    def signed_by(self) -> str:
        """Who did it, and whether that is known or only said by a file."""
        return f"{self.by}, according to the file" if self.from_file else self.by

    def save(self, *args: object, **kwargs: object) -> None:
        if self.pk is not None and not self._state.adding:
            raise TypeError("This row is never changed: write a new one that strikes it.")
        super().save(*args, **kwargs)  # type: ignore[arg-type]

    def delete(self, *args: object, **kwargs: object) -> tuple[int, dict[str, int]]:
        raise TypeError("This row is never deleted: write a new one that strikes it.")
