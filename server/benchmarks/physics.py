"""
What would a program in C get? The agent's workloads beside small programs that do the same work, on this machine.

    python benchmarks/physics.py [--target FOLDER] [--rounds 5]

Ours and theirs take turns, so that both meet the same moments of a machine that is not alone; the ratio is that of
the medians, ours to theirs. Needs a C compiler. Also: all cores against one, how much repeats scatter, what the page
cache would have made of a file that was just read, and what sampling costs.
"""

import argparse
import mmap
import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from lynxbill.bench.catalogue import catalogue
from lynxbill.bench.sensors import find_channels
from lynxbill.bench.trace import Recorder
from lynxbill.bench.work.drive import MIB, _lay_out, _past_the_cache, drive
from lynxbill.bench.work.target import file_on
from lynxbill.bench.workload import Bench, BenchWorkload

DRIVE_C = r"""
#define _GNU_SOURCE
#include <fcntl.h>
#include <pthread.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <time.h>
#include <unistd.h>
static int file, is_long, lanes;
static size_t block, span;
static volatile int ended;
static double now(void) { struct timespec t; clock_gettime(CLOCK_MONOTONIC, &t); return t.tv_sec + t.tv_nsec / 1e9; }
static void *work(void *lane) {
  void *buffer;
  uint64_t state = 88172645463325252ull + (uintptr_t)lane * 7919, number = (uintptr_t)lane, done = 0;
  if (posix_memalign(&buffer, 4096, block)) exit(2);
  while (!ended) {
    state ^= state << 13; state ^= state >> 7; state ^= state << 17;
    uint64_t place = (is_long ? number : state) % (span / block) * block;
    if (pread(file, buffer, block, place) != (ssize_t)block) { perror("pread"); exit(2); }
    number += lanes; done++;
  }
  return (void *)done;
}
int main(int argc, char **argv) {
  is_long = argv[2][0] == 'l'; block = atol(argv[3]); span = atol(argv[4]); lanes = atoi(argv[5]);
  file = open(argv[1], O_RDONLY | O_DIRECT);
  if (file < 0) { perror("open"); return 2; }
  pthread_t threads[256];
  double began = now(); uint64_t blocks = 0;
  for (long i = 0; i < lanes; i++) pthread_create(&threads[i], 0, work, (void *)i);
  usleep(atof(argv[6]) * 1e6); ended = 1;
  for (long i = 0; i < lanes; i++) { void *done; pthread_join(threads[i], &done); blocks += (uint64_t)done; }
  printf("%.6f\n", blocks / (now() - began));
  return 0;
}
"""
COPY_C = r"""
#define _GNU_SOURCE
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
int main(int argc, char **argv) {
  size_t size = atol(argv[1]); int passes = atoi(argv[2]);
  char *from = malloc(size), *to = malloc(size);
  memset(from, 7, size); memcpy(to, from, size);
  struct timespec a, b; double seconds = 0; volatile char kept;
  for (int i = 0; i < passes; i++) {
    clock_gettime(CLOCK_MONOTONIC, &a); memcpy(to, from, size); clock_gettime(CLOCK_MONOTONIC, &b);
    kept = to[size / 2]; (void)kept;
    seconds += b.tv_sec - a.tv_sec + (b.tv_nsec - a.tv_nsec) / 1e9;
  }
  printf("%.6f\n", 2.0 * passes * size / 1e9 / seconds);
  return 0;
}
"""


SPIN_C = r"""
#include <stdint.h>
#include <stdio.h>
#include <time.h>
int main(void) {
  struct timespec a, b;
  volatile uint64_t x = 1;
  clock_gettime(CLOCK_MONOTONIC, &a);
  for (uint64_t i = 0; i < 1500000000ull; i++) x = x * 6364136223846793005ull + 1;
  clock_gettime(CLOCK_MONOTONIC, &b);
  printf("%.6f\n", b.tv_sec - a.tv_sec + (b.tv_nsec - a.tv_nsec) / 1e9);
  return 0;
}
"""


def build(folder: Path, name: str, text: str) -> Path:
    source, program = folder / f"{name}.c", folder / name
    source.write_text(text)
    subprocess.run(["cc", "-O2", "-pthread", "-o", program, source], check=True)
    return program


def theirs(*words: object) -> float:
    return float(subprocess.run([str(w) for w in words], check=True, capture_output=True, text=True).stdout)


def in_turns(rounds: int, ours: Callable[[], Any], c: Callable[[], float]) -> tuple[list[Any], list[float]]:
    pairs = [(ours(), c()) for _ in range(rounds)]
    return [own for own, _ in pairs], [other for _, other in pairs]


def say(what: str, ours: list[float], c: list[float], note: str = "") -> None:
    own, other = statistics.median(ours), statistics.median(c)
    print(f"{what:44} {own:12.4g} {other:12.4g} {own / other:6.2f}  {note}", flush=True)


def drives(bench: Bench, folder: Path, target: Path, rounds: int, seconds: float) -> None:
    program, span = build(folder, "drive", DRIVE_C), 512 * MIB
    for way, kib, in_flight in (("long", 2048, 1), ("scattered", 4, 1), ("scattered", 16, 8), ("scattered", 16, 32)):
        work = drive(way, "read", kib, in_flight)
        told = dict(work.parameters) | {"MiB span": span // MIB, "seconds a pass": seconds, "passes": 1}
        remarks: set[str] = set()

        def ours(work: BenchWorkload = work, told: dict[str, Any] = told, remarks: set[str] = remarks) -> float:
            figures = work.perform(told, bench)
            remarks.update(remark for remark in figures.remarks if remark.startswith("Python was"))
            return figures.readings["rate"]

        with file_on(target) as file, _past_the_cache(file) as direct:
            _lay_out(direct, span, lambda _share: None)
            path = f"/proc/{os.getpid()}/fd/{file}"

            def c(kib: int = kib, way: str = way, in_flight: int = in_flight, path: str = path) -> float:
                rate = theirs(program, path, way, kib * 1024, span, in_flight, seconds)
                return rate * kib * 1024 / 1e6 if way == "long" else rate

            own, other = in_turns(rounds, ours, c)
        say(work.name, own, other, " ".join(remarks))


def caches(target: Path) -> None:
    size = 256 * MIB
    with file_on(target) as file, _past_the_cache(file) as direct:
        _lay_out(direct, size, lambda _share: None)
        for place in range(0, size, MIB):
            os.pread(file, MIB, place)
        rates = []
        buffer = mmap.mmap(-1, 2 * MIB)
        for descriptor in (file, direct):
            began = time.perf_counter()
            for place in range(0, size, 2 * MIB):
                os.preadv(descriptor, [buffer], place)
            rates.append(size / 1e6 / (time.perf_counter() - began))
    say("a file just read, through the cache : direct", rates[:1], rates[1:])


def sampling() -> None:
    for hertz in (1.0, 10.0):
        recorder = Recorder(find_channels(), hertz)
        began, worked = time.perf_counter(), time.process_time()
        with recorder.recording():
            time.sleep(10)
        share = (time.process_time() - worked) / (time.perf_counter() - began)
        print(f"sampling {len(recorder.channels)} sensors at {hertz:g} Hz: {share:.2%} of one core")


def scatter(each: list[float]) -> str:
    """Their standard deviation by their mean; one round has none."""
    return f"{statistics.stdev(each) / statistics.mean(each):.2%}" if len(each) > 1 else "one round, so none"


def computes(bench: Bench, folder: Path, rounds: int) -> None:
    """All cores against one; how much repeats scatter, and how much a loop in C scatters between them."""
    known, spin = catalogue({}), build(folder, "spin", SPIN_C)
    for key in ("routes", "relief", "archive", "sums"):
        one, every = known[f"{key}-one"], known[f"{key}-all"]
        pairs = [
            (
                one.perform(one.parameters, bench).readings["rate"],
                every.perform(every.parameters, bench).readings["rate"],
                theirs(spin),
            )
            for _ in range(rounds)
        ]
        ones, _, loops = zip(*pairs, strict=True)
        scale = statistics.median(both / single for single, both, _ in pairs)
        ours, c = map(scatter, (ones, loops))
        print(f"{one.name:44} all cores {scale:.2f} times one; sd of repeats {ours}, of a loop in C {c}", flush=True)


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--target", type=Path, default=Path.cwd())
    parser.add_argument("--rounds", type=int, default=5)
    parser.add_argument("--seconds", type=float, default=3.0)
    parser.add_argument("--compute-alone", action="store_true", help="leave out what is set against C")
    told = parser.parse_args()
    bench = Bench(os.cpu_count() or 1, lambda _share: None, Recorder([], 1), told.target)
    if shutil.which("cc") is None:
        sys.stderr.write("There is no C compiler here (Debian: gcc): nothing to set the agent against.\n")
        return 2
    known = catalogue({})
    with tempfile.TemporaryDirectory() as folder:
        if told.compute_alone:
            computes(bench, Path(folder), told.rounds)
            return 0
        print(f"{'':44} {'ours':>12} {'in C':>12} {'ratio':>6}")
        drives(bench, Path(folder), told.target, told.rounds, told.seconds)
        copy, move = build(Path(folder), "copy", COPY_C), known["memory-move"]
        own, other = in_turns(
            told.rounds,
            lambda: move.perform(move.parameters, bench).readings["rate"],
            lambda: theirs(copy, 256 * MIB, 24),
        )
        say(move.name, own, other)
        caches(told.target)
        print()
        computes(bench, Path(folder), told.rounds)
    sampling()
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
