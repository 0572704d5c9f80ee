"""Heat on Judge: both sides read by keyboard, a fan that is traded, three coolers and pastes on four mounts each."""

import math
import re
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import httpx
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from lynxbill.core.heat.held_back import Limits
from lynxbill.core.heat.readoff import phases_of, read_off, role_read
from lynxbill.core.heat.run import Air, channels_by_role
from lynxbill.core.heat.trace import WholeTrace
from lynxbill.core.record.build import Build, Part
from lynxbill.core.record.frame import Case, Machine
from lynxbill.core.record.ids import BuildId, MachineId, RunId, SittingId, SwapId, WorkloadId
from lynxbill.core.record.plan import Plan, PlannedMeasure
from lynxbill.core.record.run import Reading, Run, Sitting
from lynxbill.core.record.swap import Swap
from lynxbill.core.record.workload import Workload
from lynxbill.core.terms.measure import Kind, Measure, MeasureId, Scale
from lynxbill.exchange.heat_file import sensors_of
from lynxbill.exchange.run_file import write_run_file
from lynxbill.rig.machine import Noise, Rig
from lynxbill.rig.parts import RIGS, Cooler, Paste, Pc
from lynxbill.rig.sitting import perform_once
from tests.api.bodies import new_id
from tests.browser.screen import Screen
from tests.conftest import LiveServer, find_machine

DAY = datetime(2026, 6, 1, 9, tzinfo=UTC)
STOCK = replace(RIGS["plotting-pc"], paste=Paste("Ostrel P2", 0.12))
# Cooler, at the price of a fan that runs faster and is heard.
LOUD = replace(STOCK, cooler=Cooler("Quarl low, 80 mm fan", 0.34, 380, 1500, 4200, 48))
SECOND_PASTE = replace(LOUD, paste=Paste("Quarl grey", 0.07))
MOUNTS, MOUNT_SD = 4, 0.05


def measure(name: str, unit: str, kind: Kind, scale: Scale) -> Measure:
    identifier = MeasureId(new_id())
    return Measure(identifier, name, "Soak", unit, scale, kind, "lower", 0.1, trace_figure="last minute")


def three_ways(minutes: float) -> tuple[Case, dict[RunId, WholeTrace]]:
    """A stock cooler, another one, and a second paste under that: four sittings each, every one on its own mount."""
    rise, fan, sound = measures = (
        measure("Above the room", "K", "heat", "difference"),
        measure("Fan", "/min", "fan", "difference"),
        measure("Sound", "dB[SPL]", "noise", "level"),
    )
    tower, low = (Part(new_id(), "cooler", name) for name in ("Ostrel tower", "Quarl low"))
    first, second = (Part(new_id(), "thermal paste", name) for name in ("Ostrel P2", "Quarl grey"))
    sides = (
        ("Stock cooler", STOCK, (tower, first)),
        ("Low cooler", LOUD, (low, first)),
        ("Second paste", SECOND_PASTE, (low, second)),
    )
    builds, sittings, runs, traces = list[Build](), list[Sitting](), list[Run](), dict[RunId, WholeTrace]()
    for number, (label, pc, parts) in enumerate(sides):
        build = Build(BuildId(new_id()), "ABC"[number], label, parts, {})
        builds.append(build)
        for mount in range(MOUNTS):
            start = DAY + timedelta(days=7 * number + mount)
            sitting = Sitting(
                SittingId(new_id()), build.id, "plan", start, 22.0, boot=f"{number} {mount}", boot_by="read",
                closed_at=start + timedelta(hours=1), mount=MOUNTS * number + mount + 1,
            )  # fmt: skip
            sittings.append(sitting)
            run, trace = soak(sitting, pc, MOUNTS * number + mount, minutes, measures)
            runs.append(run)
            traces[run.id] = trace
    plan = Plan(
        sittings_a_side=MOUNTS,
        runs_a_sitting=1,
        headline=rise.id,
        measures={
            rise.id: PlannedMeasure("claim", 1.0),
            fan.id: PlannedMeasure("watch", 100.0),
            sound.id: PlannedMeasure("watch", 1.0),
        },
    )
    plans = (replace(plan, change="cooler"), replace(plan, change="thermal paste"))
    swaps = tuple(
        Swap(SwapId(new_id()), builds[n].id, builds[n + 1].id, "Another one", plans[n], shown=()) for n in range(2)
    )
    case = Case(
        machine=Machine(MachineId(new_id()), f"Three ways, {minutes:g} minutes", "EUR"),
        measures=measures,
        builds=tuple(builds),
        sittings=tuple(sittings),
        runs=tuple(runs),
        swaps=swaps,
        workloads=(Workload(WorkloadId(new_id()), "Soak", loads=("cooler", "thermal paste")),),
    )
    return case, traces


def soak(
    sitting: Sitting, pc: Pc, seed: int, minutes: float, measures: tuple[Measure, ...]
) -> tuple[Run, WholeTrace]:
    mount = 1 + MOUNT_SD * math.sin(7 * seed)
    paste = replace(pc.paste, kelvin_per_watt=pc.paste.kelvin_per_watt * mount)
    rig = Rig(replace(pc, room_c=22.0, paste=paste), seed, Noise(fails=0, disturbed=0), speed=math.inf)
    made = perform_once(rig, "soak", {"minutes": minutes}, sitting.started_at)
    channels = channels_by_role(sensors_of(made.trace))
    phases = phases_of(channels, made.trace.marks)
    readings = {}
    for asked in measures:
        found = read_off(asked, role_read(asked) or "temperature", channels, phases, Air(22.0), Limits()).value
        assert found is not None
        readings[asked.id] = Reading(round(found, 1), round(found, 1), statistic="mean")
    run = Run(RunId(new_id()), sitting.id, "Soak", "1", 1, "complete", readings, started_at=made.started_at)
    return run, made.trace


@pytest.fixture
def taken_in(api: httpx.Client) -> Callable[[float], str]:
    def take(minutes: float) -> str:
        case, traces = three_ways(minutes)
        answer = api.post("/run-files", content=write_run_file(case, traces)).raise_for_status().json()
        return str(answer["machine"])

    return take


def judge(screen: Screen, server: LiveServer, api: httpx.Client, machine: str, number: int) -> None:
    swap = api.get(f"/machines/{machine}").json()["swaps"][number]
    screen.open(f"{server.url}/machines/{machine}/judge?swap={swap['id']}")
    screen.sees("BY MINUTES OF LOAD")


def read_out(screen: Screen) -> str:
    slider = screen.driver.find_element(By.CSS_SELECTOR, "[role=slider]")
    return slider.get_attribute("aria-valuetext") or ""


def test_both_sides_are_read_at_a_minute_and_the_window_moved_by_keyboard(
    screen: Screen, demo_server: LiveServer, api: httpx.Client
) -> None:
    judge(screen, demo_server, api, find_machine(api, "Light-table PC"), 0)
    assert "K cooler, and at a" in screen.text()
    screen.tab_to("Read both sides at a minute")
    screen.press(Keys.HOME)
    for _ in range(5):
        screen.chord(Keys.SHIFT, Keys.ARROW_RIGHT)
    screen.press(Keys.ARROW_LEFT)
    sentences = read_out(screen)
    assert sentences.startswith("Minute 4.8: before 3")
    before, after = (float(side.split(" K")[0].split()[-1]) for side in sentences.split("; "))
    assert 1.5 < before - after < 4.5
    screen.press(Keys.ESCAPE)
    assert read_out(screen) == "No minute read yet"
    screen.activate("← Look at the minute before, on both sides")
    screen.sees("Chosen after the verdict was given, it decides nothing.")
    screen.activate("back to the first window")
    screen.until(lambda: "it decides nothing" not in screen.text(), "the window did not go back")
    # By mouse it is dragged on the drawing, on both sides at once.
    slider = screen.driver.find_element(By.CSS_SELECTOR, "[role=slider]")
    screen.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", slider)
    half = slider.size["width"] / 2
    drag = ActionChains(screen.driver).move_to_element_with_offset(slider, 0.94 * half, 0).click_and_hold()
    drag.move_by_offset(-half, 0).release().perform()
    screen.sees("Chosen after the verdict was given, it decides nothing.")
    assert re.search(r"minute 3\.\d to 4\.\d: 3\d\.\d K → 3\d\.\d K", screen.text())


def test_a_fan_that_is_traded_for_heat_is_read_together_and_two_pastes_are_told_apart_on_four_mounts(
    screen: Screen, demo_server: LiveServer, api: httpx.Client, taken_in: Callable[[float], str]
) -> None:
    machine = taken_in(15.0)
    judge(screen, demo_server, api, machine, 0)
    text = screen.text()
    assert "K cooler, but at a" in text
    assert "rpm faster fan and" in text
    assert "the cooler’s own share is not known; a run at a fixed fan would tell." in text
    judge(screen, demo_server, api, machine, 1)
    text = screen.text()
    assert "K cooler, and the gain is real" in text
    assert "K apart" in text
    assert "single mount" not in text
    first, last = (api.get(f"/machines/{machine}").json()["builds"][n]["id"] for n in (0, 2))
    screen.open(f"{demo_server.url}/machines/{machine}/judge?before={first}&after={last}")
    screen.sees("BY MINUTES OF LOAD")
    assert "4 runs in 4 sittings before, 4 runs in 4 sittings after" in screen.text()


def test_runs_that_still_climb_say_so_and_are_compared_at_the_same_minute(
    screen: Screen, demo_server: LiveServer, api: httpx.Client, taken_in: Callable[[float], str]
) -> None:
    judge(screen, demo_server, api, taken_in(4.0), 0)
    screen.sees("4 of 4 before not shown to have settled at the end")
    assert "At minute 4 of the load" in screen.text()
