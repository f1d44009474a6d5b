"""The next move that is kept for the same axle: the same words, and another once anything changes."""

from __future__ import annotations

from axle.decision.next_move import next_move
from axle.measure.units import IMPERIAL, METRIC
from shop.jobs import advice, loading
from shop.jobs.models import Job


def test_a_kept_move_is_the_one_that_would_be_worked_out(demo):
    for number in (412, 414, 417, 418):
        state = loading.load(Job.objects.get(number=number)).state
        for display in (IMPERIAL, METRIC):
            first = advice.advised(state, display)
            again = advice.advised(loading.load(Job.objects.get(number=number)).state, display)
            assert first == again == next_move(state, display)


def test_a_reading_more_is_another_axle(fresh):
    before = loading.load(fresh.job)
    fresh.read("arrival_side_play", "0")
    after = loading.load(Job.objects.get(pk=fresh.job.pk))
    assert after.state != before.state
    assert advice.advised(after.state, IMPERIAL) == next_move(after.state, IMPERIAL)
