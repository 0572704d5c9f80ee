"""Heat whose truth is known: traces that settle or don't, equilibria under noise, jobs on simulated PCs."""

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from datetime import UTC, datetime

import numpy as np

from lynxbill.core.heat.equilibrium import LEAST_SAMPLES, Equilibrium, fit_equilibrium
from lynxbill.core.heat.held_back import Limits
from lynxbill.core.heat.readoff import phases_of, read_off
from lynxbill.core.heat.roles import ChannelRole
from lynxbill.core.heat.run import Air, channels_by_role
from lynxbill.core.heat.settled import find_course
from lynxbill.core.heat.trace import Floats
from lynxbill.core.record.plan import Plan
from lynxbill.core.result.comparison import judge_measures
from lynxbill.core.result.result import MeasureResult
from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.prove.simulate import make_case, plan_for
from lynxbill.rig.machine import Noise, Rig, settled_rise
from lynxbill.rig.parts import RIGS, Cooler, Paste, Pc
from lynxbill.rig.sitting import perform_once

PHIS = (0.0, 0.6, 0.9)
TAUS = (2.0, 3.0, 4.0, 6.0)
STEPS = (1.0, 2.0, 5.0, 10.0)
_TAU_S = 120.0
_AT = datetime(2026, 5, 4, 9, tzinfo=UTC)
RISE = Measure(
    MeasureId("rise"), "Rise", "job", "K", "difference", "heat", "lower", step=0.1, trace_figure="last minute"
)


def along(random: np.random.Generator, n: int, r: float) -> Floats:
    """AR(1) noise of standard deviation 1 with the autocorrelation r a step; shape (n,)."""
    shocks = random.normal(size=n) * math.sqrt(1 - r * r)
    noise = np.empty(n)
    noise[0] = random.normal()
    for number in range(1, n):
        noise[number] = r * noise[number - 1] + shocks[number]
    return noise


Soak = tuple[Floats, Floats, float]


def any_soak(random: np.random.Generator) -> Soak:
    """A soak as benches make them, two bodies and AR(1) noise, and what it truly has left to go at its end, in K."""
    tau = math.exp(random.uniform(math.log(40), math.log(400)))
    return _soaked(random, ((tau, random.uniform(8, 45)),), max(180.0, random.uniform(1, 8) * tau))


def second_soak(random: np.random.Generator, slow_s: tuple[float, float] = (120.0, 1200.0)) -> Soak:
    """A soak with a slow part: 5 to 30 % of the rise at so many seconds beside a quicker one."""
    rise, share = random.uniform(8, 45), random.uniform(0.05, 0.3)
    quick, slow = (math.exp(random.uniform(math.log(a), math.log(b))) for a, b in ((15, 100), slow_s))
    parts = ((quick, rise * (1 - share)), (slow, rise * share))
    return _soaked(random, parts, random.uniform(5, 30) * 60)


def long_soak(random: np.random.Generator, minutes: tuple[float, float] = (15.0, 45.0)) -> Soak:
    """A soak of eight time constants and more, of so many minutes, by a sensor that scatters by up to .25 K."""
    lasts = random.uniform(*minutes) * 60
    return _soaked(random, ((lasts / random.uniform(8, 20), random.uniform(8, 45)),), lasts, most_noise=0.25)


def _soaked(
    random: np.random.Generator, parts: tuple[tuple[float, float], ...], lasts_s: float, most_noise: float = 0.5
) -> Soak:
    """Time constants (s) with their rises (K), a die's own jump, and AR(1) noise."""
    step = random.choice(STEPS)
    at = np.arange(0.0, lasts_s + step / 2, step)
    rise = sum(one for _, one in parts)
    die = random.uniform(0, 0.5) * rise * np.exp(-at / random.uniform(2, 8))
    noise = random.uniform(0.1, most_noise) * along(random, len(at), random.choice(PHIS) ** step)
    to_go = sum((one * np.exp(-at / tau) for tau, one in parts), np.zeros_like(at))
    return at, 60 - to_go - die + noise, float(to_go[-1])


def called_settled(
    random: np.random.Generator,
    replications: int,
    *,
    soak: Callable[[np.random.Generator], Soak],
    left: tuple[float, float],
) -> int:
    """How many of so many soaks with so much left to go, in K, are said to have settled."""
    called = done = 0
    while done < replications:
        at, values, to_go = soak(random)
        if not left[0] < to_go <= left[1]:
            continue
        done += 1
        course = find_course("temperature", at, values)
        called += course is not None and course.settled
    return called


def missed_equilibria(
    random: np.random.Generator,
    replications: int,
    *,
    phi: float,
    taus: float,
    step: float,
    sd: float = 0.4,
    read: float = 0.0,
) -> int:
    """How many intervals of t_inf leave it out, of those that are given; `read`: in steps of so many K, if any."""
    at = np.arange(0.0, taus * _TAU_S + step / 2, step)
    missed = done = 0
    while done < replications:
        noise = sd * along(random, len(at), phi**step)
        # The truth lies anywhere within a step.
        truth = 70 + read * random.uniform(-0.5, 0.5)
        told = truth - 40 * np.exp(-at / _TAU_S) + noise
        found = fit_equilibrium(at, np.round(told / read) * read if read else told)
        if isinstance(found, Equilibrium):
            done += 1
            missed += not found.low <= truth <= found.high
    return missed


def equilibrium_grid() -> Iterator[tuple[float, float, float]]:
    """phi a second, length in time constants, and step in s, of every cell with samples enough."""
    for phi in PHIS:
        for taus in TAUS:
            for step in STEPS:
                if taus * _TAU_S / step + 1 >= LEAST_SAMPLES:
                    yield phi, taus, step


@dataclass(frozen=True, slots=True)
class HeatJob:
    """A swap on simulated PCs; `mount_sd` scatters the paste's resistance with every sitting, a mount of its own."""

    name: str
    before: Pc
    after: Pc
    mount_sd: float = 0.07

    @property
    def true_gain(self) -> float:
        """How much cooler it truly runs after ten minutes, in K."""
        return settled_rise(self.before, _MINUTES) - settled_rise(self.after, _MINUTES)


_MINUTES = 10.0
_SITTINGS = 5


def judged(random: np.random.Generator, job: HeatJob) -> MeasureResult:
    """Judge a job from its traces: five sittings a side, one soak each, read off as the product reads them."""
    sides = [[[_reading(random, job, pc)] for _ in range(_SITTINGS)] for pc in (job.before, job.after)]
    plan: Plan = plan_for([RISE], _SITTINGS, matters_from=1.0)
    (result,) = judge_measures(make_case([sides[0]], [sides[1]], plan=plan, measures=(RISE,)))
    return result


def _reading(random: np.random.Generator, job: HeatJob, pc: Pc) -> float:
    """One soak in a room of its own, on a mount of its own."""
    room, mount = float(random.normal(22.5, 0.7)), float(random.normal(1.0, job.mount_sd))
    paste = replace(pc.paste, kelvin_per_watt=pc.paste.kelvin_per_watt * mount)
    noise = Noise(fails=0, disturbed=0)
    rig = Rig(replace(pc, room_c=room, paste=paste), int(random.integers(1 << 31)), noise, speed=math.inf)
    made = perform_once(rig, "soak", {"minutes": _MINUTES}, _AT, every_s=10.0)
    sensors: list[tuple[ChannelRole, str, Floats, Floats]] = [
        (one.role, one.of, np.array(one.at), np.array(one.values, dtype=float)) for one in made.trace.channels
    ]
    channels = channels_by_role(sensors)
    found = read_off(
        RISE, "temperature", channels, phases_of(channels, made.trace.marks), Air(round(room, 1)), Limits()
    )
    assert found.value is not None
    return round(found.value, 1)


def misjudged(random: np.random.Generator, replications: int, *, job: HeatJob) -> int:
    """How often a job whose gain is real is not judged to be one."""
    return sum(judged(random, job).verdict.word != "real_gain" for _ in range(replications))


def called_gains(random: np.random.Generator, replications: int, *, job: HeatJob) -> int:
    """How often a gain is called."""
    return sum(judged(random, job).verdict.word == "real_gain" for _ in range(replications))


_RENEWED = replace(RIGS["plotting-pc"], paste=Paste("Ostrel P2", 0.12))
_FAST_FAN = Cooler("Ostrel tower, 92 mm, fast fan", 0.34, 380, 900, 3200, 46)
# Every gain here is 2 K or more, with mounts that scatter by about half a kelvin.
GAINS = (
    HeatJob("worn paste renewed", replace(_RENEWED, paste=Paste("Ostrel P2", 0.12, years=6)), _RENEWED),
    HeatJob("dust alone", replace(_RENEWED, cooler=replace(_RENEWED.cooler, dust=0.2)), _RENEWED),
    HeatJob("a cooler with a faster fan", _RENEWED, replace(_RENEWED, cooler=_FAST_FAN)),
)
NOTHING = HeatJob("paste that changes nothing", _RENEWED, _RENEWED)
