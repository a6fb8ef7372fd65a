"""Brands made on this machine: one process for each core."""

from __future__ import annotations

import os
import signal
from collections.abc import Iterable, Iterator
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context

from rivelt import cores
from rivelt.documents.base import Problem
from rivelt.errors import BadInput
from rivelt.fleet.make import Made, Order, make
from rivelt.fleet.stock import Stock
from rivelt.fleet.store import Record, Shelf

_AHEAD = 2  # orders for each process, so that none waits
_ATTEMPTS = 2  # of a brand whose process ends


class Here:
    """All brands in this process, one after the other, each on all cores."""

    def __init__(self, stock: Stock, shelf: Shelf) -> None:
        self._stock = stock
        self._shelf = shelf

    def run(self, orders: Iterable[Order]) -> Iterator[Record]:
        """Yield the record of each brand when it is made."""
        for order in orders:
            yield self._shelf.put(order.brand, make(order, self._stock))


class Pool:
    """Several processes, each with the project read once; a process that ends takes no brand with it but one that ends it again."""

    def __init__(self, stock: Stock, shelf: Shelf, processes: int) -> None:
        self._stock = stock
        self._shelf = shelf
        self._processes = processes

    def run(self, orders: Iterable[Order]) -> Iterator[Record]:
        """Yield the record of each brand when it is made; the next orders are taken as processes become free."""
        waiting = iter(orders)
        attempts: dict[str, int] = {}
        again: list[Order] = []
        is_done = False
        while not is_done:
            executor = self._started()
            running: dict[Future[Record], Order] = {}
            try:
                yield from self._until_broken(executor, running, waiting, again)
                is_done = True
            except BrokenProcessPool:
                for order in running.values():
                    name = order.brand.name
                    attempts[name] = attempts.get(name, 0) + 1
                    if attempts[name] < _ATTEMPTS:
                        again.append(order)
                    else:
                        yield self._shelf.put(order.brand, _lost(order))
            finally:
                _end(executor)

    def _started(self) -> ProcessPoolExecutor:
        # Processes that are forked would share locks with threads that they do not have.
        return ProcessPoolExecutor(
            self._processes,
            mp_context=get_context("spawn"),
            initializer=_begin,
            initargs=(self._stock, self._shelf),
        )

    def _until_broken(
        self,
        executor: ProcessPoolExecutor,
        running: dict[Future[Record], Order],
        waiting: Iterator[Order],
        again: list[Order],
    ) -> Iterator[Record]:
        is_alone = bool(again)  # of brands that were at work when a process ended, one at a time shows which it was
        while True:
            room = 1 if is_alone else self._processes * _AHEAD
            while len(running) < room and (
                order := again.pop() if again else next(waiting, None) if not is_alone else None
            ):
                running[_submitted(executor, order, again)] = order
            if not running:
                if not is_alone:
                    return
                is_alone = False
                continue
            done, _ = wait(running, return_when=FIRST_COMPLETED)
            for future in done:
                record = future.result()
                del running[future]
                yield record


def _submitted(executor: ProcessPoolExecutor, order: Order, again: list[Order]) -> Future[Record]:
    """Hand an order to the processes; where one of them has ended meanwhile, it is kept for the next ones."""
    try:
        return executor.submit(_made, order)
    except BrokenProcessPool:
        again.append(order)
        raise


def _end(executor: ProcessPoolExecutor) -> None:
    """End the processes at once: what they have not finished is made again by the next run."""
    processes = list((getattr(executor, "_processes", None) or {}).values())
    executor.shutdown(wait=False, cancel_futures=True)
    for process in processes:
        process.terminate()
    executor.shutdown(wait=True)


def _lost(order: Order) -> Made:
    error = BadInput(
        "the process that made it ended, twice: memory may be short",
        hint="Run it again with --jobs 1, or with smaller art.",
    )
    return Made(order.brand.name, {}, (Problem.of(error),), 0.0)


class _Worker:
    """What a process works with."""

    stock: Stock
    shelf: Shelf


def _begin(stock: Stock, shelf: Shelf) -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl-C reaches the whole group; the first process ends the others
    cores.limit(1)
    _Worker.stock, _Worker.shelf = stock, shelf


def _made(order: Order) -> Record:
    return _Worker.shelf.put(order.brand, make(order, _Worker.stock))


def usual_processes() -> int:
    """Return how many processes work at once: one for each core."""
    return os.cpu_count() or 1
