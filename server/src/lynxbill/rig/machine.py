"""A simulated PC at the bench: what each of the agent's workloads yields on it, with noise, and what is true."""

import math
import random
import secrets
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import numpy as np

from lynxbill.bench.catalogue import BUILT_IN
from lynxbill.bench.preflight import Interference, Rest
from lynxbill.bench.sensors import Channel
from lynxbill.bench.work import overflow
from lynxbill.bench.workload import Bench, BenchWorkload, Figures, Parameters, WrongResult
from lynxbill.core.record.ids import Plain
from lynxbill.rig.noise import Law, normal
from lynxbill.rig.parts import RIGS, Pc
from lynxbill.rig.physics import State

# Rates of the reference core at 1 MHz; what a sheet of each kind takes of it.
_PER_MHZ = {"routes": 0.05, "relief": 0.08, "archive": 0.008, "sums": 0.11}
_UNIT_MIB = 1024
# So much of the memory the system keeps for itself, in MiB.
_SYSTEM_MIB = 1600
FASTEST = 2000.0
_CROWD_S, _CROWD_PROGRAM_MIB = 5.0, 48
_START_S, _START_READS = 11.0, 3800
# How many threads beyond the cores help: two on a core do about a quarter more.
_SECOND_THREAD = 0.25


@dataclass(frozen=True, slots=True)
class Noise:
    """
    Shares of a reading: sd of runs and of sittings with the laws that they follow, what a first run after the start
    is slower by, drift an hour, and how often a run fails or is disturbed.

    `times` says by a workload's key where readings scatter so many times as much as that.
    """

    run: float = 0.006
    sitting: float = 0.004
    cold: float = 0.03
    drift: float = 0.0
    fails: float = 0.01
    disturbed: float = 0.02
    runs: Law = normal
    boots: Law = normal
    times: Mapping[str, float] = field(default_factory=dict)


QUIET = Noise(0.0, 0.0, 0.0, 0.0, 0.0, 0.0)


@dataclass
class Rig:
    """A simulated PC after one start of it; its clock runs `speed` times as fast as ours, endless: at once."""

    pc: Pc
    seed: int = 1
    noise: Noise = field(default_factory=Noise)
    speed: float = 200.0
    boot: str = "rig"
    # Called as its time passes, where somebody watches it by its own clock.
    on_moment: Callable[[], None] | None = None

    def __post_init__(self) -> None:
        self._random = random.Random(self.seed)
        self._generator = np.random.default_rng(self.seed)
        self.state = State(self.pc)
        self._sitting = self.noise.sitting * self._draw(self.noise.boots)
        self._made = 0

    def clock(self) -> float:
        """Seconds since the start, by the rig's own clock."""
        return self.state.seconds

    def wait(self, seconds: float) -> None:
        """Let time pass; in ours a part of it."""
        step = 0.5
        left = seconds
        while left > 1e-9:
            self.state.move(min(step, left))
            if math.isfinite(self.speed):
                time.sleep(min(step, left) / self.speed)
            if self.on_moment is not None:
                self.on_moment()
            left -= step

    @property
    def threads(self) -> int:
        return self.pc.processor.threads

    def rest(self, start_c: float | None, limit_s: float, say: Callable[[str], None]) -> Rest:
        """Let it cool down to within 1 K of the start of the sitting."""
        waited = 0.0
        while start_c is not None and self.state.die_c > start_c + 1.0 and waited < limit_s:
            say(f"resting: {self.state.die_c - start_c:.1f} K warmer than at the start of the sitting")
            self.wait(10.0)
            waited += 10.0
        rested = start_c is None or self.state.die_c <= start_c + 1.0
        seen: dict[str, Plain] = {"rest_min": round(waited / 60, 2), "start_c": round(self.state.die_c, 1)}
        return Rest(rested, waited, 0.0, self.state.die_c, seen)

    def watch(self) -> "Rig":
        return self

    def look(self) -> Interference | None:
        """Nothing else runs on it."""
        return None

    def identify(self, target: Path | None, salt: str | None) -> dict[str, Any]:
        """Its parts, as a system would show them."""
        processor, memory, drive, link = self.pc.processor, self.pc.memory, self.pc.drive, self.pc.link
        cores = {
            "cores": processor.cores,
            "threads": processor.threads,
            "boost_ghz": round(processor.boost_mhz / 1000, 2),
        }
        parts = [
            ("processor", processor.label, cores),
            ("memory", memory.label, {"size_gb": memory.gib}),
            ("drive", drive.label, {"link_gts": link.gts, "lanes": link.lanes}),
        ]
        channels = self.channels()
        nothing = dict.fromkeys(("system", "python", "firmware", "power_source", "governor", "target"))
        return {
            "parts": [{"role": role, "label": label, "rated": rated} for role, label, rated in parts],
            "sensors": [f"{channel.role}: {channel.sensor}" for channel in channels],
            "missing": {},
        } | nothing

    def channels(self) -> list[Channel]:
        """Its sensors: they stand in for real ones, and are named so."""
        state, jitter = self.state, self._random

        def told(read: Callable[[], float], sd: float) -> Callable[[], float | None]:
            return lambda: round(read() + jitter.gauss(0, sd if self.noise != QUIET else 0.0), 2)

        return [
            Channel("temperature", "processor", "Cel", "rig, die", told(lambda: state.die_c, 0.35), stands_in=True),
            Channel(
                "clock",
                "processor",
                "MHz",
                "rig, mean of all cores",
                told(lambda: state.clock_mhz, 6.0),
                stands_in=True,
            ),
            Channel("power", "processor", "W", "rig, package", told(lambda: state.power_w, 0.15), stands_in=True),
            Channel("fan", "board", "/min", "rig, fan", told(lambda: state.rpm, 12.0), stands_in=True),
            Channel("noise", "room", "dB[SPL]", "rig, 50 cm", told(lambda: state.noise_db, 0.25), stands_in=True),
            Channel("load", "processor", "%", "rig, share of all cores", lambda: 100 * state.load, stands_in=True),
            Channel(
                "held back", "processor", "1", "rig, steps held back", lambda: float(state.held_back), stands_in=True
            ),
        ]

    def known(self) -> dict[str, BenchWorkload]:
        """The agent's workloads, done by the rig in place of this machine."""
        return {
            work.key: replace(
                work,
                perform=self._perform_of(work),
                needs=_nothing,
                on_target=False,
                version=f"{work.version.split(' ')[0]} (rig)",
            )
            for work in BUILT_IN
        }

    def _perform_of(self, work: BenchWorkload) -> Callable[[Parameters, Bench], Figures]:
        return lambda parameters, bench: self.perform(work, parameters, bench)

    def perform(self, work: BenchWorkload, parameters: Parameters, bench: Bench) -> Figures:
        """Do a workload once: time passes, heat flows, and its figures come with noise."""
        bench.trace.mark("load")
        seconds = float(parameters.get("minutes") or 0) * 60 or work.minutes * 60
        self.state.load = _loads(work, parameters, self.pc)
        shares = []
        steps = 40
        try:
            for step in range(steps):
                self.wait(seconds / steps)
                shares.append(self.state.share)
                bench.progress((step + 1) / steps)
        finally:
            self.state.load = 0.0
        self._made += 1
        if self._random.random() < self.noise.fails:
            raise WrongResult("the simulated machine hung, as real ones do now and then")
        clock = sum(shares) / len(shares)
        scatter = self.noise.times.get(work.key, 1.0)
        true = self.true(work, parameters, clock)
        readings = {key: value * self._factor(key, scatter) for key, value in true.items()}
        for role in ("temperature", "clock", "power", "fan"):
            if any(measure.key == role for measure in work.measures):
                level = bench.trace.settled(role, 60.0)
                if level is not None:
                    readings[role] = level
        return Figures(readings, remarks=("A simulated PC.",))

    def _draw(self, law: Law) -> float:
        return float(law(self._generator, (1, 1))[0, 0])

    def _factor(self, key: str, scatter: float) -> float:
        slower = self.noise.cold if self._made == 1 else 0.0
        slower += self.noise.drift * self.state.seconds / 3600
        if self._random.random() < self.noise.disturbed:
            slower += abs(self._random.gauss(0, 0.05))
        wobble = 1 + scatter * (self._sitting + self.noise.run * self._draw(self.noise.runs))
        return wobble * (1 + slower) if key == "time" else wobble / (1 + slower)

    def true(self, work: BenchWorkload, parameters: Parameters, share: float = 1.0) -> dict[str, float]:
        """What a workload yields without noise, at so much of the boost clock; figures of a trace aside."""
        kind = work.key.split("-")[0]
        if kind == "soak":
            return {"rate": self._rate("relief", "all", share)}
        if kind == "stepped":
            return {"resistance": self.resistance()}
        ways: dict[str, Callable[[Parameters], dict[str, float]]] = {
            "memory": self._memory,
            "overflow": self._overflow,
            "crowd": self._crowd,
            "drive": self._drive,
            "start": self._start,
        }
        return ways[kind](parameters) if kind in ways else self._compute(kind, parameters, share)

    def resistance(self) -> float:
        """Kelvin for each watt more, at the full fan."""
        return self.pc.paste.resistance + self.pc.cooler.resistance(self.pc.fan_rpm or self.pc.cooler.most_rpm)

    def _compute(self, kind: str, parameters: Parameters, share: float) -> dict[str, float]:
        cores = str(parameters.get("cores", "all"))
        if cores == "one against all":
            return {"scaling": self._rate(kind, "all", share) / self._rate(kind, "one", 1.0)}
        return {"rate": self._rate(kind, cores, share)}

    def _rate(self, kind: str, cores: str, share: float) -> float:
        processor = self.pc.processor
        wide = processor.cores + _SECOND_THREAD * (processor.threads - processor.cores) if cores == "all" else 1
        return _PER_MHZ[kind] * processor.per_clock * processor.boost_mhz * share * wide

    def _memory(self, parameters: Parameters) -> dict[str, float]:
        memory = self.pc.memory
        if "KiB span" in parameters:
            near = float(parameters["KiB span"] or 0) <= 4096
            return {"time": memory.scattered_ns * (0.06 if near else 0.16)}
        return {"rate": memory.gb_per_s * {"move": 1.0, "fill": 0.9, "blend": 1.05}[str(parameters["way"])]}

    def _overflow(self, parameters: Parameters) -> dict[str, float]:
        cap = min(int(parameters["most MiB"] or 0), int(self.pc.memory.gib * _UNIT_MIB) - _SYSTEM_MIB)
        return {"held": overflow.sets_up_to(cap * overflow.MIB, int(parameters["steps"] or 1))[-1] / overflow.MIB}

    def _crowd(self, parameters: Parameters) -> dict[str, float]:
        programs = int(parameters["programs"] or 0)
        wanted = programs * _CROWD_PROGRAM_MIB * 4 + _SYSTEM_MIB
        over = max(0.0, wanted - self.pc.memory.gib * _UNIT_MIB)
        # What does not fit goes to the drive, in blocks from anywhere.
        paged = over * 256 * self.pc.drive.scattered_ms / 1000 / self.pc.drive.in_flight
        return {"time": _CROWD_S * 4 / self.pc.processor.cores + paged, "ready": float(programs)}

    def _drive(self, parameters: Parameters) -> dict[str, float]:
        drive, block = self.pc.drive, int(parameters["KiB a block"] or 1)
        most = self.pc.link.mb_per_s
        writes = {"read": 0.0, "write": 1.0, "mixed": 1 / 3}[str(parameters["mode"])]
        long = 1 / ((1 - writes) / min(drive.read_mb_s, most) + writes / min(drive.write_mb_s, most))
        busy = 0.55 if parameters.get("beside") == "a busy neighbour" else 1.0
        if parameters["way"] == "long":
            return {"rate": long * busy}
        lanes = min(int(parameters["in flight"] or 1), drive.in_flight)
        return {"rate": busy * min(lanes / (drive.scattered_ms / 1000), long * 1e6 / (block * 1024))}

    def _start(self, _parameters: Parameters) -> dict[str, float]:
        return {"time": _START_S / self.pc.processor.per_clock + _START_READS * self.pc.drive.scattered_ms / 1000 / 4}


def start_rig(name: str, speed: float) -> Rig:
    """
    Start a simulated PC by its name; "field-laptop:7" takes the seed along. Each call is a start of its own.

    Raises:
        ValueError: a name that is not known, a speed that it can't have.
    """
    of, _, seed = name.partition(":")
    if of not in RIGS or not (seed or "1").isdigit():
        raise ValueError(f"There is no simulated PC “{name}”. There are: {', '.join(RIGS)}; a seed follows a colon.")
    if not 0 < speed <= FASTEST:
        raise ValueError(f"--speed is above 0, and {FASTEST:.0f} at most: so much faster than ours its clock runs.")
    number = int(seed) if seed else secrets.randbelow(10**9)
    return Rig(RIGS[of], number, speed=speed, boot=f"rig {of}, start {secrets.token_hex(4)}")


def _nothing(_parameters: Parameters, _bench: Bench) -> None:
    """A simulated PC can do all of it."""


def _loads(work: BenchWorkload, parameters: Mapping[str, Any], pc: Pc) -> float:
    """The share of all cores that a workload keeps at work."""
    if work.key in ("soak", "stepped-load") or parameters.get("cores") in ("all", "one against all"):
        return 1.0
    return 1 / pc.processor.cores


def true_gain(before: Pc, after: Pc, key: str, share: float = 1.0) -> float:
    """
    What a swap truly brings on a workload: the ratio after to before, of a time before to after (above 1: better).
    """
    work = next(known for known in BUILT_IN if known.key == key)
    one, other = (Rig(pc, noise=QUIET).true(work, work.parameters, share) for pc in (before, after))
    name = next(iter(one))
    ratio = other[name] / one[name]
    return 1 / ratio if name in ("time", "resistance") else ratio


def settled_rise(pc: Pc, minutes: float = 60.0) -> float:
    """How far above the room a PC's die settles with all cores at work, in K."""
    state = State(pc)
    state.load = 1.0
    state.move(minutes * 60)
    return state.die_c - pc.room_c
