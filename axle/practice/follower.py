"""Somebody who does what the advice says, and nothing else: of tests, benchmark and demo alike."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence

from axle.decision.move import Act, Move
from axle.stations.station_state import Standing


class Follower(ABC):
    """Follows the advice on one axle, wherever it stands: a simulated one, a test's, or a shop's job."""

    @abstractmethod
    def advice(self) -> Move:
        """The next move, by what is recorded so far."""

    @abstractmethod
    def standings(self) -> Mapping[str, Standing]:
        """Where every station stands."""

    @abstractmethod
    def change(self, move: Move) -> None:
        """Fit the packs of a move, or turn its adjusters."""

    @abstractmethod
    def read(self, kind: str, place: int, *, again: bool) -> None:
        """Take one reading; ``again`` where it repeats one on purpose."""

    @abstractmethod
    def make_print(self) -> None:
        """Print both flanks."""

    def prepare(self) -> None:  # noqa: B027 - a hook that most leave empty
        """Put in what has to be in before anything can be read."""

    def choose_method(self, move: Move) -> None:  # noqa: B027 - likewise
        """Choose how the station of a move is read, by what a hand feels."""

    def tighten(self, move: Move) -> None:
        """Turn the nut of a sleeve on, and read."""
        raise NotImplementedError(f"nobody tightens here: {move.title}")

    def replace_sleeve(self) -> None:
        """Fit a new sleeve."""
        raise NotImplementedError("no sleeve is replaced here")

    def is_finished(self) -> bool:
        """Whether to stop although the advice goes on."""
        return False

    def wanted(self, move: Move) -> Sequence[tuple[str, int]]:
        """The readings that a move asks for: those it names, else what its station still wants."""
        return move.asks or [(slot.kind, slot.place) for slot in self.standings()[move.station].missing]

    def follow(self, most: int) -> Move | None:
        """Do so many moves at the most; gives the one at which nothing is left to do by hand.

        :param most: moves at the most, 1 or more.
        :returns: to sign, to look, or done; nothing where it was stopped before.
        :source: the advice itself.
        """
        for _ in range(most):
            if self.is_finished():
                return None
            self.prepare()
            move = self.advice()
            if move.act is Act.CHANGE:
                self.change(move)
            elif move.act is Act.READ:
                self._read(move)
            elif move.act is Act.PRINT:
                self.make_print()
            elif move.act is Act.TIGHTEN:
                self.tighten(move)
            elif move.act is Act.REPLACE:
                self.replace_sleeve()
            else:
                return move
        return None

    def _read(self, move: Move) -> None:
        self.choose_method(move)
        for kind, place in self.wanted(move):
            self.read(kind, place, again=move.again)
