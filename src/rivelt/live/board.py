"""What the live page shows, as plain data, and those who are told when it changes."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from threading import RLock
from typing import TYPE_CHECKING, Any, TypeAlias

import msgspec

from rivelt.live.controls import controls_of
from rivelt.live.shots import add_marks

if TYPE_CHECKING:
    from rivelt.live.desk import Desk
    from rivelt.proof.model import Proof

Told: TypeAlias = dict[str, Any]
Listener: TypeAlias = Callable[[Told], None]


class Board:
    """The screens by their keys, and all else that a page shows. `head` holds what is no screen."""

    def __init__(self, name: str, desk: Desk | None) -> None:
        self.errors: list[dict[str, str]] = []
        self.handoffs: list[Told] = []
        self.contrast: Mapping[str, Any] = {}
        self.backdrop: str | None = None
        self.generation = 0
        self.is_busy = True
        self._name = name
        self._desk = desk
        self._screens: dict[str, Told] = {}
        self._listeners: list[Listener] = []
        self._lock = RLock()

    def listen(self, listener: Listener) -> Callable[[], None]:
        """Tell a function all that is there, and all that changes; returns one that ends that."""
        with self._lock:
            self._listeners.append(listener)
            listener(self.state())

        def end() -> None:
            with self._lock:
                if listener in self._listeners:
                    self._listeners.remove(listener)

        return end

    def state(self) -> Told:
        """Return all that is shown."""
        with self._lock:
            return {**self._head(), "type": "state", "screens": list(self._screens.values())}

    def _head(self) -> Told:
        desk = self._desk
        draft = desk.draft if desk is not None else None
        shown = desk.shown if desk is not None else None
        return {
            "type": "head",
            "generation": self.generation,
            "busy": self.is_busy,
            "name": self._name,
            "brief": desk.name if desk is not None else None,
            "edition": desk.edition if desk is not None else None,
            "editions": list(desk.editions) if desk is not None else [],
            "errors": self.errors,
            "controls": [msgspec.to_builtins(one) for one in controls_of(shown)] if shown is not None else [],
            "contrast": self.contrast,
            "backdrop": self.backdrop,
            "handoffs": self.handoffs,
            "order": list(self._screens),
            "diff": draft.diff if draft is not None else "",
            "digest": draft.digest if draft is not None else "",
            "changed": desk.changes if desk is not None else [],
            "undo": desk is not None and desk.can_undo,
        }

    def publish(self) -> None:
        """Tell everybody what is no screen."""
        with self._lock:
            self._tell(self._head())

    def show(self, item: Told) -> None:
        """Show a screen; marks stay where the picture is the same, until it is judged again."""
        with self._lock:
            old = self._screens.get(item["id"])
            for shot, earlier in zip(item["shots"], old["shots"] if old is not None else (), strict=False):
                if shot["picture"] == earlier["picture"]:
                    shot["marks"], shot["codes"] = earlier["marks"], earlier["codes"]
            self._screens[item["id"]] = item
            self._tell({"type": "screen", "screen": item})

    def keep(self, keys: Sequence[str]) -> None:
        """Show these screens alone, in this order."""
        with self._lock:
            self._screens = {key: self._screens[key] for key in keys if key in self._screens}

    def judged(self, proofs: Sequence[Proof], handoffs: list[Told]) -> None:
        """Add what the rules say of the screens, and what comes after them."""
        with self._lock:
            for proof in proofs:
                add_marks(self._screens, proof)
            self.handoffs = handoffs
            for item in self._screens.values():
                self._tell({"type": "screen", "screen": item})

    def _tell(self, told: Told) -> None:
        for listener in list(self._listeners):
            listener(told)
