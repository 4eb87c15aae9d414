"""Processes of ours that begin at once: copies of one that has read the program already. They can be broken at a step that they take."""

from __future__ import annotations

import importlib
import multiprocessing
import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from multiprocessing.process import BaseProcess
from typing import Any, NamedTuple

from attentive_owl.jobs import worker as working
from attentive_owl.settings import Settings
from tests.ops.houses import kill_outright

_forks = multiprocessing.get_context("forkserver")
_forks.set_forkserver_preload(["tests.forked", "attentive_owl.core.checking", "attentive_owl.web.app"])


class Step(NamedTuple):
    """A moment: before or after a function does its work, for the first time in this process."""

    owner: str
    """A module, or `module:Class`."""
    name: str
    after: bool

    def __str__(self) -> str:
        return f"{'after' if self.after else 'before'} {self.owner.rsplit('.', 1)[-1]}.{self.name}"


def break_at(step: Step, number: int | None) -> None:
    """The process of this number is killed there, with those that it has started; None: our own."""
    module, _, inside = step.owner.partition(":")
    owner: Any = importlib.import_module(module)
    owner = getattr(owner, inside) if inside else owner
    real, times = getattr(owner, step.name), iter((True,))

    def broken(*arguments: Any, **named: Any) -> Any:
        now = next(times, False)
        if now and not step.after:
            kill_outright(number or os.getpid())
        answer = real(*arguments, **named)
        if now and step.after:
            kill_outright(number or os.getpid())
        return answer

    setattr(owner, step.name, broken)


def begin(target: Callable[..., None], *arguments: Any) -> BaseProcess:
    """`target` has a name in a module: the process finds it there."""
    own = _forks.Process(target=target, args=arguments)
    own.start()
    return own


@contextmanager
def forked_worker(settings: Settings) -> Iterator[BaseProcess]:
    own = begin(work, settings)
    try:
        yield own
    finally:
        own.terminate()
        own.join(20)


def work(settings: Settings, step: Step | None = None, number: int | None = None) -> None:
    """The worker, with less patience and without its warming up."""
    working._STALLED_S, working._AGAIN_S, working._STORE_AGAIN_S = 1.0, 0, 1
    working._warm_up = lambda: None
    if step is not None:
        break_at(step, number)
    working.run_worker(settings)
