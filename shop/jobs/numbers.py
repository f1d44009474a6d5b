"""Numbers of jobs: the shop's own, counted on past what is taken, and practice axles far off them."""

from shop.jobs.models import Job
from shop.jobs.models.job import FIRST_OF_PRACTICE
from shop.people.models import Shop


def locked(shop: Shop) -> Shop:
    """The shop's row, held until the transaction ends: whoever numbers something waits for it."""
    return Shop.objects.select_for_update().get(pk=shop.pk)


def next_number(held: Shop) -> int:
    """The next free number of a shop whose row is held; steps past numbers that files brought in."""
    others = Job.objects.of(held).filter(number__gte=held.next_job_number, number__lt=FIRST_OF_PRACTICE)
    numbers = set(others.values_list("number", flat=True))
    number = held.next_job_number
    while number in numbers:
        number += 1
    held.next_job_number = number + 1
    held.save(update_fields=["next_job_number"])
    return number


def next_of_practice(held: Shop) -> int:
    """The next number of a practice axle, of a shop whose row is held."""
    newest = (
        Job.objects.of(held)
        .filter(practice=True, number__gte=FIRST_OF_PRACTICE)
        .order_by("-number")
        .values_list("number", flat=True)
        .first()
    )
    return FIRST_OF_PRACTICE if newest is None else newest + 1


def number_from_file(held: Shop, wanted: int) -> int:
    """A file's own number where it is free here, else the shop's next; the shop's count stays as it is."""
    own = wanted < FIRST_OF_PRACTICE and not Job.objects.of(held).filter(number=wanted).exists()
    return wanted if own else next_number(held)
