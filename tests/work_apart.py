"""Work for children of the tests: behaves, takes its time, eats memory, dies."""

import os
import signal
import time

from studio.apart import Made, apart
from texel.errors import BadDocument


@apart
def told(word: str) -> Made:
    return Made(word.encode(), {"process": os.getpid()})


@apart
def refused(word: str) -> Made:
    raise BadDocument("it is {word}", word=word)


@apart
def sleeping(seconds: float) -> Made:
    time.sleep(seconds)
    return Made()


@apart
def eating(megabytes: int) -> Made:
    held = [bytearray(b"x" * (1 << 20)) for _ in range(megabytes)]
    time.sleep(5)
    return Made(said=len(held))


@apart
def dying() -> Made:
    os.kill(os.getpid(), signal.SIGSEGV)
    return Made()


def not_meant_for_this() -> Made:
    return Made()
