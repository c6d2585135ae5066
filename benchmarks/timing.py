"""How long calls take, and what takes how many times as long."""

import time
from statistics import median


def seconds(call, times):
    start = time.perf_counter()
    for _ in range(times):
        call()
    return (time.perf_counter() - start) / times


def least(call, times=20, rounds=15):
    """Seconds of a call, in the best of some rounds."""
    call()
    return min(seconds(call, times) for _ in range(rounds))


def ratio(mine, peer, rounds=9, times=1, peer_times=1):
    """Medians of both, and the median of peer / mine."""
    mine(), peer()
    pairs = [(seconds(mine, times), seconds(peer, peer_times)) for _ in range(rounds)]
    return (
        median(a for a, _ in pairs), median(b for _, b in pairs), median(b / a for a, b in pairs)
    )  # fmt: skip
