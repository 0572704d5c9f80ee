"""
Compute in the workshop's own kinds of work, a sheet of the map at a time.

Routes and reliefs are done by the interpreter itself: their version names it. Packing and sums are done by its codec
and its hash, whose versions they name. Every sheet is checked against what it must give.
"""

import hashlib
import math
import platform
import random
import ssl
import time
import zlib
from collections.abc import Callable
from dataclasses import dataclass

from lynxbill.bench.work.crew import crew, hand_out
from lynxbill.bench.workload import (
    Bench,
    BenchWorkload,
    Figures,
    Parameters,
    StatedMeasure,
    WrongResult,
    count_in,
)

SEED = 8440
SHEET = 96
BLOCK_BYTES = 1 << 20
LEVEL = 6
PRIME = (1 << 61) - 1
SUN = (0.42, -0.57, 0.706)

Sheet = Callable[[int], str]


def route_sheet(_given: object = None) -> Sheet:
    """Count the ways across a sheet with ponds in it, from corner to corner, never back; integers and branches."""
    generator = random.Random(SEED)
    ponds = [[generator.random() < 0.18 for _ in range(SHEET)] for _ in range(SHEET)]
    ponds[0][0] = ponds[-1][-1] = False

    def count(_number: int) -> str:
        ways = 0
        for turn in range(4):
            row = [0] * SHEET
            row[0] = 1
            for y in range(SHEET):
                wet, left = ponds[y] if turn % 2 == 0 else ponds[SHEET - 1 - y], 0
                for x in range(SHEET):
                    if wet[x]:
                        left = row[x] = 0
                    elif (x + y) & 7 == turn:
                        left = row[x] = (row[x] + 3 * left + 1) % PRIME
                    else:
                        left = row[x] = (row[x] + left) % PRIME
            ways = (ways * 31 + row[-1]) % PRIME
        return f"{ways:x}"

    return count


def relief_sheet(_given: object = None) -> Sheet:
    """Shade a sheet's relief by the angle of the sun on each slope; floating point."""
    generator = random.Random(SEED)
    waves = [(generator.uniform(0.02, 0.3), generator.uniform(0.02, 0.3), generator.uniform(5, 40)) for _ in range(6)]
    heights = [
        [math.fsum(h * math.sin(a * x + b * y) for a, b, h in waves) for x in range(SHEET)] for y in range(SHEET)
    ]

    def shade(_number: int) -> str:
        light, (sun_x, sun_y, sun_z) = 0.0, SUN
        for y in range(1, SHEET - 1):
            above, here, below = heights[y - 1], heights[y], heights[y + 1]
            for x in range(1, SHEET - 1):
                east = (here[x + 1] - here[x - 1]) * 0.5
                south = (below[x] - above[x]) * 0.5
                steep = math.sqrt(east * east + south * south + 1.0)
                lit = (sun_z - east * sun_x - south * sun_y) / steep
                light += lit if lit > 0 else 0.0
        # Rounded: the last places of a sine may differ between mathematics libraries.
        return f"{light:.3f}"

    return shade


def make_block() -> bytes:
    """
    Make the fixed block that is packed and summed: three quarters words, one quarter noise.

    The mix keeps the codec's matcher and its coder both busy; the seed makes it the same everywhere.
    """
    generator = random.Random(SEED)
    words = [bytes(generator.choices(range(97, 123), k=generator.randint(3, 9))) for _ in range(800)]
    text = b" ".join(generator.choices(words, k=BLOCK_BYTES // 6))[: BLOCK_BYTES * 3 // 4]
    return text + generator.randbytes(BLOCK_BYTES - len(text))


def packed_sheet(_given: object = None) -> Sheet:
    """Pack a block of 1 MiB and unpack it again."""
    block = make_block()
    return lambda _number: hashlib.sha256(zlib.decompress(zlib.compress(block, LEVEL))).hexdigest()


def summed_sheet(_given: object = None) -> Sheet:
    """Take the sum (SHA-256) of 16 blocks of 1 MiB."""
    block = make_block()

    def sums(_number: int) -> str:
        total = hashlib.sha256()
        for _ in range(16):
            total.update(block)
        return total.hexdigest()

    return sums


@dataclass(frozen=True, slots=True)
class _Kind:
    """One kind of work; a rate in `unit` is `per_sheet` of it for each sheet in a second."""

    name: str
    card: str
    maker: Callable[[object], Sheet]
    unit: str
    per_sheet: float
    sheets: int
    made_by: str


_PYTHON = f"{platform.python_implementation()} {platform.python_version()}"
_KINDS = {
    "routes": _Kind(
        "Route counting",
        "Ways across a sheet of 96 by 96 fields with ponds: whole numbers and branches.",
        route_sheet,
        "/s",
        1.0,
        1600,
        _PYTHON,
    ),
    "relief": _Kind(
        "Relief shading",
        "The sun on each slope of a sheet of 96 by 96 fields: floating point.",
        relief_sheet,
        "/s",
        1.0,
        2400,
        _PYTHON,
    ),
    "archive": _Kind(
        "Archive packing",
        "Blocks of 1 MiB packed, unpacked again and checked.",
        packed_sheet,
        "MBy/s",
        BLOCK_BYTES / 1e6,
        160,
        f"codec {zlib.ZLIB_RUNTIME_VERSION}",
    ),
    "sums": _Kind(
        "Checking sums",
        "The SHA-256 of blocks of 1 MiB, as before and after a copy.",
        summed_sheet,
        "MBy/s",
        16 * BLOCK_BYTES / 1e6,
        160,
        ssl.OPENSSL_VERSION.split("  ")[0],
    ),
}


def _perform(parameters: Parameters, bench: Bench) -> Figures:
    kind = _KINDS[str(parameters["kind"])]
    sheets, cores = count_in(parameters, "sheets"), parameters["cores"]
    size = 1 if cores == "one" else bench.threads
    if cores == "one against all":
        one = rate(kind, sheets, 1, lambda share: bench.progress(share / 2))
        every = rate(kind, sheets, bench.threads, lambda share: bench.progress((1 + share) / 2))
        return Figures({"scaling": every / one})
    return Figures({"rate": rate(kind, sheets, size, bench.progress)})


def rate(kind: _Kind, sheets: int, size: int, progress: Callable[[float], None]) -> float:
    """Do so many sheets in so many processes and check each; in the kind's unit."""
    wanted = kind.maker(None)(0)
    with crew(size, kind.maker, None) as pipes:
        started = time.perf_counter()
        for done, answer in enumerate(hand_out(pipes, sheets), start=1):
            if answer != wanted:
                raise WrongResult(f"sheet {done} of {sheets} gave {answer} in place of {wanted}")
            progress(done / sheets)
        seconds = time.perf_counter() - started
    return sheets * kind.per_sheet / seconds


def _workload(key: str, cores: str, factor: int) -> BenchWorkload:
    kind = _KINDS[key]
    scaling = cores == "one against all"
    rated = {"routes": "Sheets routed", "relief": "Sheets shaded", "archive": "Packed", "sums": "Summed"}[key]
    name = f"{kind.name}, {'one core' if cores == 'one' else cores if scaling else 'all cores'}"
    measure = (
        StatedMeasure("scaling", f"{kind.name}, all cores as a multiple of one", "1", "score", "higher")
        if scaling
        else StatedMeasure(
            "rate", f"{rated}, {'one core' if cores == 'one' else 'all cores'}", kind.unit, "rate", "higher"
        )
    )
    return BenchWorkload(
        key=f"{key}-{'scaling' if scaling else cores}",
        name=name,
        version=f"1 ({kind.made_by})",
        parameters={"kind": key, "cores": cores, "sheets": kind.sheets * factor, "seed": SEED},
        loads=("processor",),
        measures=(measure,),
        perform=_perform,
        card=kind.card,
        minutes=0.4,
    )


COMPUTE = tuple(
    _workload(key, cores, factor)
    for key in _KINDS
    for cores, factor in (("one", 1), ("all", 2), ("one against all", 1))
)
