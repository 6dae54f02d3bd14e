"""How packets arrive: new, late, doubled, lost; senders that stop, come back, begin anew."""

import pytest

from dynaface.core.feed.arrivals import BACK, FOLLOWING, Arrivals
from dynaface.core.feed.packet import Packet
from dynaface.sims.feed_phone import Weather, through

EACH = 1 / 60


def heard(numbers, clocked=True, start=0.0, arrivals=None):
    found = arrivals or Arrivals()
    kinds = [found.heard(Packet("", n, n * EACH if clocked else None), start + i * EACH) for i, n in enumerate(numbers)]
    return found, kinds


def test_packets_in_order_are_new_and_nothing_is_lost():
    found, kinds = heard(range(120))
    assert set(kinds) == {"new"}
    assert found.lost(2.0) == 0
    assert found.rate(119 * EACH) == pytest.approx(60, abs=1)


def test_gaps_in_the_numbers_are_lost_for_a_minute():
    found, _ = heard([0, 1, 2, 5, 6, 8])
    assert found.lost(1.0) == 3
    assert found.lost(70.0) == 0


def test_what_comes_late_is_not_lost_and_not_shown():
    found, kinds = heard([0, 1, 3, 4, 2, 5])
    assert kinds == ["new", "new", "new", "new", "late", "new"]
    assert found.lost(1.0) == 0


def test_what_comes_twice_is_doubled():
    _, kinds = heard([0, 1, 1, 2, 1])
    assert kinds == ["new", "new", "doubled", "new", "doubled"]


@pytest.mark.parametrize("seed", range(5))
def test_each_packet_that_arrives_is_told_once_and_losses_are_counted(seed):
    sent = [bytes([n % 256]) for n in range(600)]
    arrived = [number for number, _ in through(sent, Weather(0.05, 0.05, 0.05), seed)]
    found, kinds = heard(arrived)
    assert sum(k != "doubled" for k in kinds) == len(set(arrived))
    highest, first = max(arrived), arrived[0]
    assert found.lost(len(arrived) * EACH) == len(set(range(first, highest)) - set(arrived))


def test_a_sender_that_pauses_and_goes_on_lost_nothing():
    found, _ = heard(range(60))
    found.heard(Packet("", 900, 15.0), 15.0)
    assert found.lost(15.0) == 0
    assert found.age(15.5) == pytest.approx(0.5)


def test_a_sender_that_begins_anew_after_a_pause_is_new_and_its_clock_goes_on():
    found, _ = heard(range(60))
    packet = Packet("", 0, 0.0)
    assert found.heard(packet, 10.0) == "new"
    assert found.begun == 1
    assert found.seconds(packet, 10.0) == pytest.approx(10.0, abs=0.1)


def test_a_sender_that_begins_anew_at_once_is_believed_after_some_packets():
    found, _ = heard(range(100))
    _, kinds = heard(range(40), arrivals=found, start=100 * EACH)
    assert kinds.index("new") <= FOLLOWING + 1
    assert set(kinds[FOLLOWING + 1 :]) == {"new"}


def test_a_jump_far_ahead_is_no_loss():
    found, kinds = heard([0, 1, 2 + 10 * BACK])
    assert kinds[-1] == "new"
    assert found.lost(1.0) == 0


def test_without_numbers_the_clock_says_what_is_late_or_doubled():
    found = Arrivals()
    kinds = [found.heard(Packet("", None, s), i * EACH) for i, s in enumerate([0.0, 0.1, 0.1, 0.05, 0.2])]
    assert kinds == ["new", "new", "doubled", "late", "new"]


def test_with_neither_all_is_new_and_counts_from_when_it_came():
    found = Arrivals()
    packet = Packet("", values={"jawOpen": 1.0})
    assert [found.heard(packet, 5 + i * EACH) for i in range(3)] == ["new"] * 3
    assert found.seconds(packet, 5 + 2 * EACH) == pytest.approx(2 * EACH)


def test_before_the_first_packet_there_is_no_age():
    assert Arrivals().age(3.0) is None
    assert Arrivals().rate(3.0) == 0
