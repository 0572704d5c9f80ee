"""The parts of a simulated PC, as their physics is told; none of them is any maker's."""

import math
from dataclasses import dataclass, replace

# Of what a link carries by its rate, this is left after coding and packets (8b/10b up to 6 GT/s, 128b/130b above).
_CODED_BELOW_GTS = 6.5
_PACKETS = 0.93


@dataclass(frozen=True, slots=True)
class Processor:
    """
    `per_clock` is work a core does in a MHz (1 is the reference core's); clocks in MHz, power in W, limit in °C.

    `watts` is drawn with all cores at work at the boost clock, `idle_w` with none.
    """

    label: str
    cores: int
    threads: int
    per_clock: float
    base_mhz: float
    boost_mhz: float
    watts: float
    idle_w: float
    limit_c: float = 95.0


@dataclass(frozen=True, slots=True)
class Paste:
    """Thermal resistance when fresh, in K/W; each year adds `ages` of it."""

    label: str
    kelvin_per_watt: float
    ages: float = 0.15
    years: float = 0.0

    @property
    def resistance(self) -> float:
        return self.kelvin_per_watt * (1 + self.ages * self.years)


@dataclass(frozen=True, slots=True)
class Cooler:
    """
    Resistance to the room in K/W at the full fan, heat capacity in J/K; fan in rpm, noise in dB(A) at full.

    `dust` is by how much its resistance is more than clean: 0.3 is three tenths.
    """

    label: str
    kelvin_per_watt: float
    joule_per_kelvin: float
    least_rpm: float
    most_rpm: float
    noise_db: float
    dust: float = 0.0

    def resistance(self, rpm: float) -> float:
        """Air that moves half as fast carries about seven tenths: the root of the fan's share."""
        return self.kelvin_per_watt * (1 + self.dust) * math.sqrt(self.most_rpm / max(rpm, self.least_rpm))

    def noise(self, rpm: float) -> float:
        """Sound rises by some 50 dB a decade of fan speed."""
        return self.noise_db + 50 * math.log10(max(rpm, self.least_rpm) / self.most_rpm)


@dataclass(frozen=True, slots=True)
class Memory:
    """Size in GiB, what blocks are moved at in GB/s, and how long a scattered read takes in ns."""

    label: str
    gib: float
    gb_per_s: float
    scattered_ns: float


@dataclass(frozen=True, slots=True)
class Link:
    """How a drive is connected: rate a lane in GT/s, and lanes."""

    gts: float
    lanes: int

    @property
    def mb_per_s(self) -> float:
        """The most that it carries, in MB/s."""
        coded = 0.8 if self.gts < _CODED_BELOW_GTS else 128 / 130
        return self.gts * 1000 / 8 * coded * self.lanes * _PACKETS


@dataclass(frozen=True, slots=True)
class Drive:
    """Long blocks read and written in MB/s, how long a scattered block takes in ms, and how many fly at once."""

    label: str
    read_mb_s: float
    write_mb_s: float
    scattered_ms: float
    in_flight: int


@dataclass(frozen=True, slots=True)
class Pc:
    """A whole PC in a room of so many °C; `fan_rpm` holds the fan (None: it follows the temperature)."""

    processor: Processor
    paste: Paste
    cooler: Cooler
    memory: Memory
    drive: Drive
    link: Link
    room_c: float = 22.0
    fan_rpm: float | None = None


VARRO_4 = Processor("Varro 4-core", 4, 4, 1.0, 3200, 3600, 58, 9)
VARRO_6 = Processor("Varro 6-core", 6, 12, 1.06, 3400, 3900, 65, 9)
MOBILE = Processor("Varro 4-core, mobile", 4, 8, 1.0, 2400, 3500, 44, 4, limit_c=92)
OSTREL_92 = Cooler("Ostrel tower, 92 mm fan", 0.42, 380, 700, 2200, 38)
OSTREL_120 = Cooler("Ostrel tower, 120 mm fan", 0.36, 420, 500, 1500, 33)
SLIM = Cooler("Slim blower", 0.95, 110, 1800, 4600, 41)
SIX_HUNDRED = Link(6.0, 1)

PLOTTING = Pc(
    VARRO_4,
    Paste("Ostrel P2", 0.12, years=3),
    OSTREL_92,
    Memory("Marl 8 GB", 8, 17.0, 92),
    Drive("Siskin 480 GB", 540, 480, 0.11, 16),
    SIX_HUNDRED,
)
LAPTOP = Pc(
    MOBILE,
    Paste("As it came", 0.22, years=5),
    replace(SLIM, dust=0.45),
    Memory("Marl 8 GB", 8, 14.0, 98),
    Drive("Siskin 240 GB", 520, 400, 0.12, 16),
    SIX_HUNDRED,
)
TOWER = Pc(
    replace(VARRO_4, label="Varro 2-core", cores=2, threads=4, watts=46),
    Paste("Ostrel P2", 0.12, years=4),
    OSTREL_92,
    Memory("Marl 4 GB", 4, 15.0, 95),
    Drive("Spinning 1 TB", 145, 138, 12.5, 4),
    SIX_HUNDRED,
)

# The plotting PC's ladder: as received it is so dusty that it meets the limit of its processor in a soak.
RECEIVED = replace(
    PLOTTING,
    processor=replace(VARRO_4, watts=62, limit_c=74),
    paste=Paste("As delivered", 0.12, years=5),
    cooler=replace(OSTREL_92, dust=0.6),
    drive=Drive("Siskin 480 GB", 512, 470, 0.42, 16),
    link=Link(8.0, 4),
)
RENEWED = replace(RECEIVED, paste=Paste("Ostrel P2", 0.12), cooler=OSTREL_92)
SIX_CORES = replace(RENEWED, processor=replace(VARRO_6, watts=76))

# By name: what each of the workshop's machines was, and what it became.
RIGS: dict[str, Pc] = {
    "plotting-pc": PLOTTING,
    "plotting-pc-120-mm": replace(PLOTTING, cooler=OSTREL_120),
    "plotting-pc-received": RECEIVED,
    "plotting-pc-renewed": RENEWED,
    "plotting-pc-6-cores": SIX_CORES,
    "plotting-pc-16-gb": replace(SIX_CORES, memory=Memory("Marl 16 GB kit", 16, 30.0, 90)),
    "field-laptop": LAPTOP,
    "field-laptop-clean": replace(LAPTOP, cooler=SLIM),
    "field-laptop-pasted": replace(LAPTOP, cooler=SLIM, paste=Paste("Ostrel P2", 0.12)),
    "scanner-room-tower": TOWER,
    "scanner-room-tower-solid-state": replace(TOWER, drive=Drive("Siskin 240 GB", 520, 400, 0.12, 16)),
}
