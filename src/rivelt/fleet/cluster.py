"""Brands made on a cluster that Dask runs: its public client alone, so that any scheduler will do.

https://distributed.dask.org/en/stable/client.html. The project and files that several brands share are sent to the workers once, by their
content; a brand's own art travels with its order. Tasks are pure: one whose worker is lost is run again elsewhere.
"""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Iterable, Iterator, Mapping
from contextlib import suppress
from typing import Any

from rivelt.art.files import read_file
from rivelt.errors import BadInput, RiveltError
from rivelt.fleet.make import Made, Order, make
from rivelt.fleet.stock import Carried, Stock
from rivelt.fleet.store import Record, Shelf
from rivelt.fleet.versions import versions
from rivelt.project.files import DISK

_AHEAD = 3  # orders for each thread of the cluster
_ATTEMPTS = 4
_CONNECT = "10s"
_PATIENCE = "120s"  # for a result that is there already
_KEPT = 500  # files that stay on the workers for brands to come


class LostScheduler(RiveltError):
    """The scheduler does not answer any more."""


class Cluster:
    """The workers of one scheduler."""

    def __init__(self, address: str, stock: Stock, carried: Carried, shelf: Shelf) -> None:
        """Connect to a scheduler.

        Raises:
            BadInput: none answers there, it has no workers, or a worker has other versions.
        """
        self._address = address
        self._stock = stock
        self._carried = carried
        self._shelf = shelf
        self._client = _connected(address)
        try:
            self._threads = self._refuse_different()
        except BaseException:
            self.close()
            raise
        self._sent: dict[str, Any] = {}

    def close(self) -> None:
        """Let go of the scheduler; what is under way there is given up."""
        with suppress(Exception):  # whatever its connection is like, nothing is wanted of it any more
            self._client.close(timeout=5)

    def _refuse_different(self) -> int:
        """Compare versions first; return how many threads the workers have."""
        workers = self._client.scheduler_info(n_workers=-1)["workers"]
        if not workers:
            hint = f"Start one on each machine: dask worker {self._address} --nthreads 1"
            raise BadInput(f"the scheduler at {self._address} has no workers", hint=hint)
        mine = versions()
        try:
            found: Mapping[str, dict[str, str]] = self._client.run(versions)
        except Exception as error:
            hint = "Install the same Rivelt there: pip install 'rivelt[fleet]'"
            raise BadInput(f"a worker cannot say which Rivelt it has: {error}", hint=hint) from error
        for worker, theirs in sorted(found.items()):
            for name, own in mine.items():
                if theirs.get(name) != own:
                    message = f"the worker {worker} has {name} {theirs.get(name)}, and this machine {own}: the bytes could differ"
                    raise BadInput(message, hint="Install the same on all of them.")
        return sum(int(worker["nthreads"]) for worker in workers.values())

    def run(self, orders: Iterable[Order]) -> Iterator[Record]:
        """Yield the record of each brand when it is made.

        Raises:
            LostScheduler: the scheduler ended; brands that are recorded stay.
        """
        try:
            yield from self._run(orders)
        except (OSError, RuntimeError) as error:
            if self._client.status == "running":  # then it is not the scheduler's
                raise
            raise self._lost() from error

    def _run(self, orders: Iterable[Order]) -> Iterator[Record]:
        from distributed import as_completed

        queue: Any = as_completed(loop=self._client.loop)  # type: ignore[no-untyped-call]
        waiting = iter(orders)
        running: dict[Any, tuple[Order, int]] = {}
        stock = self._send(self._carried)

        def submit(order: Order, attempt: int) -> None:
            key = f"brand-{order.brand.name}-{attempt}-{secrets.token_hex(4)}"
            art = self._art(order)
            future = self._client.submit(_made, order, stock, art, versions(), key=key, pure=False)
            running[future] = (order, attempt)
            queue.add(future)

        room = max(2, self._threads * _AHEAD)
        while True:
            while len(running) < room and (order := next(waiting, None)) is not None:
                submit(order, 1)
            if not running:
                return
            future = next(queue)
            order, attempt = running.pop(future)
            made = self._result(future)
            if made is None and attempt < _ATTEMPTS:
                # Its worker was lost, or what had been sent to it: both are made up for.
                self._refuse_lost()
                stock, self._sent = self._send(self._carried), {}
                submit(order, attempt + 1)
                continue
            if made is None or made.is_short:
                made = make(order, self._stock)  # what was not sent is here
            yield self._shelf.put(order.brand, made)

    def _result(self, future: Any) -> Made | None:
        """What a task gave; None where its worker, or what it was made from, was lost."""
        try:
            found: Made = future.result(timeout=_PATIENCE)
        except RiveltError:
            raise
        except Exception:  # noqa: BLE001 whatever Dask says of a task that was lost: it is run again, and in the end here
            self._refuse_lost()
            return None
        return found

    def _send(self, value: object) -> Any:
        return self._client.scatter(value, hash=False, broadcast=True)

    def _refuse_lost(self) -> None:
        if self._client.status != "running":
            raise self._lost()

    def _art(self, order: Order) -> dict[str, Any]:
        """The files of a brand by absolute path: sent by content, and once for all brands that have the same."""
        found: dict[str, Any] = {}
        folder = order.brand.brief.folder
        for name, digest in order.brand.inputs.items():
            path = DISK.real(folder / name)
            if digest not in self._sent:
                data = read_file(path, name)
                if hashlib.sha256(data).hexdigest() != digest:
                    raise BadInput(f"{name} was changed while it was read", hint="Run it again.")
                self._sent[digest] = self._client.scatter(data, hash=True)
            found[str(path)] = self._sent[digest]
        self._forget()
        return found

    def _forget(self) -> None:
        """Keep the newest only: what no task under way needs goes from the workers."""
        while len(self._sent) > _KEPT:
            del self._sent[next(iter(self._sent))]

    def _lost(self) -> LostScheduler:
        hint = "Run the same command again when it is back: what is made is not made again."
        return LostScheduler(f"the scheduler at {self._address} does not answer any more", hint=hint)


def _made(order: Order, stock: Carried, art: Mapping[str, bytes], wanted: Mapping[str, str]) -> Made:
    """Make a brand on a worker."""
    from rivelt import cores

    if (mine := versions()) != wanted:
        raise BadInput(f"a worker that came later has other versions: {mine}", hint="Install the same on all of them.")
    cores.limit(1)
    return make(order, stock, art)


def _connected(address: str) -> Any:
    import logging

    from distributed import Client

    # What goes wrong is said by us, once: each part of Dask has a logger of its own, with a level of its own.
    for name in (*logging.root.manager.loggerDict, "asyncio"):
        if name.partition(".")[0] in {"distributed", "tornado", "asyncio"}:
            logging.getLogger(name).setLevel(logging.CRITICAL + 1)
    try:
        return Client(address, timeout=_CONNECT, set_as_default=False)  # type: ignore[no-untyped-call]
    except (OSError, ValueError, TypeError) as error:
        hint = "Start one with: dask scheduler; it prints its address."
        raise BadInput(f"no scheduler answers at {address}", hint=hint) from error
