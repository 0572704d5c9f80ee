"""What a technician does on Judge: leaves a run out for good, and holds a suspected cause as a claim."""

import httpx

from tests.api.bodies import Job, comparison_of, new_id
from tests.browser.screen import Screen
from tests.conftest import LiveServer


def test_a_run_is_left_out_for_good_and_both_results_are_shown(
    screen: Screen, demo_server: LiveServer, api: httpx.Client, demo_id: str
) -> None:
    case = api.get(f"/machines/{demo_id}").json() | {"runs": api.get(f"/machines/{demo_id}/runs").json()}
    random_read = next(measure for measure in case["measures"] if measure["name"].startswith("Scattered read"))
    judge = f"{demo_server.url}/machines/{demo_id}/judge?swap={case['swaps'][2]['id']}&measure={random_read['id']}"
    screen.open(judge)
    screen.activate("Leave a run out")
    chosen = next(
        run
        for run in case["runs"]
        if run["readings"].get(random_read["id"]) and run["sitting"] == last_sitting(case) and run["position"] == 2
    )
    label = f"D 3 run 2: {chosen['readings'][random_read['id']]['low']:.1f} MB/s"
    screen.choose("Which run", label)
    screen.fill("Why it does not count", "a copy was still running")
    screen.activate("Leave it out for good")
    screen.sees("As it stood before:")
    screen.sees("left out after its reading was seen: a copy was still running")
    kept = next(run for run in api.get(f"/machines/{demo_id}/runs").json() if run["id"] == chosen["id"])
    assert kept["excluded_late"] == "a copy was still running"


def last_sitting(case: dict[str, list[dict[str, str]]]) -> str:
    fitted = case["builds"][3]["id"]
    return [sitting["id"] for sitting in case["sittings"] if sitting["build"] == fitted][-1]


def test_a_suspected_cause_stays_suspected_until_something_speaks_for_it(
    screen: Screen, demo_server: LiveServer, api: httpx.Client, demo_id: str
) -> None:
    swap = api.get(f"/machines/{demo_id}").json()["swaps"][0]["id"]
    judge = f"{demo_server.url}/machines/{demo_id}/judge?swap={swap}"
    screen.open(judge)
    screen.activate("Note a suspected cause")
    screen.fill("Suspected cause or limit", "Dust, not paste, held the heat")
    screen.fill("How it could be tested", "clean a second machine and leave its paste")
    screen.open(judge)
    screen.activate("Note a suspected cause")
    assert screen.value_of("Suspected cause or limit") == "Dust, not paste, held the heat"
    screen.activate("Save it")
    screen.sees("Suspected, not tested: Dust, not paste, held the heat")
    screen.activate("Edit")
    screen.choose("It is", "supported")
    screen.activate("Save it")
    screen.sees("Say what speaks for it being supported.")
    screen.fill("What speaks for that", "The cleaned machine fell by 5 K with its old paste.")
    screen.activate("Save it")
    screen.sees("Supported: Dust, not paste, held the heat")


def test_what_the_unchanged_machine_shows_and_what_the_gain_follows_stand_beside_the_verdicts(
    screen: Screen, demo_server: LiveServer, api: httpx.Client, demo_id: str
) -> None:
    case = api.get(f"/machines/{demo_id}").json()
    swap = case["swaps"][1]
    sides = {"before": swap["before"], "after": swap["after"]}
    comparison = api.get(f"/machines/{demo_id}/comparison", params=sides).json()
    names = {measure["id"]: measure["name"] for measure in case["measures"]}
    greyed = {names[key] for key, result in comparison["measures"].items() if result["within_floor"]}
    assert {"Tile rendering", "Soak, above ambient"}.isdisjoint(greyed)
    screen.open(f"{demo_server.url}/machines/{demo_id}/judge?swap={swap['id']}")
    screen.sees_control("Build before")
    assert "DOES THE GAIN FOLLOW" not in screen.text(), "what a customer never asks is folded"
    screen.activate("For the next technician")
    screen.sees("Does the gain follow the work?".upper())
    for row in screen.driver.find_elements("css selector", "tr[data-measure]"):
        assert ("within its scatter" in row.text) == (row.get_attribute("data-measure") in greyed)
    (inputs,) = (trend for trend in comparison["trends"] if trend["trait"] == "MB of input")
    assert [names[point["measure"]] for point in inputs["points"]] == [
        "Project open", "Tile rendering", "Archive packing", "Photo stitching",
    ]  # fmt: skip
    screen.sees("A suggestion only: 4 tasks are few")


def test_every_figure_behind_a_verdict_can_be_opened_and_is_the_servers_own(
    screen: Screen, demo_server: LiveServer, api: httpx.Client, demo_id: str
) -> None:
    case = api.get(f"/machines/{demo_id}").json()
    swap = case["swaps"][1]
    tiles = next(measure["id"] for measure in case["measures"] if measure["name"] == "Tile rendering")
    sides = {"before": swap["before"], "after": swap["after"]}
    result = comparison_of(api, demo_id, **sides)["measures"][tiles]
    screen.open(f"{demo_server.url}/machines/{demo_id}/judge?swap={swap['id']}&measure={tiles}")
    screen.activate("For the next technician: spread, rule, p, companions")
    screen.sees("standard deviation")
    detail = screen.driver.find_element("css selector", "aside[aria-label='The chosen measure']")
    rows = {
        row.find_element("tag name", "th").text: [cell.text for cell in row.find_elements("tag name", "td")]
        for row in detail.find_elements("css selector", "tbody tr")
    }
    before, after = result["summary_before"], result["summary_after"]
    assert rows["runs"] == [str(before["runs"]), str(after["runs"])]
    assert rows["median"] == [f"{before['median']:.1f}", f"{after['median']:.1f}"]
    assert rows["lowest"] == [f"{before['low']:.1f}", f"{after['low']:.1f}"]

    screen.sees("degrees of freedom")
    shown = dict(
        zip(
            [term.text for term in detail.find_elements("css selector", "details[open] dt")],
            [
                float(figure.text.replace("−", "-"))
                for figure in detail.find_elements("css selector", "details[open] dd")
            ],
            strict=True,
        )
    )
    exact = {"gain, %": "gain_percent", "difference d": "estimate", "scatter S": "sd", "95 % low": "ci_low"}
    for name, member in exact.items():
        assert abs(shown[name] - result[member]) <= 1e-6 * abs(result[member])
    assert shown["least p, ranks of so few"] == result["least_rank_p"] == 0.1


def test_choosing_a_measure_on_a_tablet_brings_its_detail_up(
    screen: Screen, demo_server: LiveServer, demo_id: str
) -> None:
    screen.resize(820, 1180)
    screen.open(f"{demo_server.url}/machines/{demo_id}/judge")
    screen.activate("Project open s")
    detail = screen.driver.find_element("css selector", "aside[aria-label='The chosen measure']")
    top = "return arguments[0].getBoundingClientRect().top < 0.5 * window.innerHeight"
    # On a busy machine the detail comes up a moment before it is the chosen one's.
    screen.until(lambda: "PROJECT OPEN" in detail.text, "the detail is not the chosen one's")
    screen.until(lambda: screen.driver.execute_script(top, detail), "the detail stays below")
    screen.resize(1280, 800)


def test_a_verdict_counts_as_given_once_it_stands_on_a_screen(
    screen: Screen, demo_server: LiveServer, api: httpx.Client
) -> None:
    job = Job(api).describe()
    job.plan(runs_a_sitting=3).raise_for_status()
    job.measure(job.build, [[40.0, 40.2, 40.1], [40.3, 40.1, 40.2], [40.1, 40.0, 40.2]])
    after = new_id()
    swap = job.swap(after)["id"]
    job.measure(after, [[30.0, 30.2, 30.1], [30.3, 30.1, 30.2], [30.1, 30.0, 30.2]])
    api.get(f"/machines/{job.machine}/comparison").raise_for_status()
    assert Job.find_swap(job.case(), swap)["shown"] == []
    screen.open(f"{demo_server.url}/machines/{job.machine}/judge")
    screen.sees("the gain is real")

    def given() -> list[str]:
        return [entry["measure"] for entry in Job.find_swap(job.case(), swap)["shown"]]

    screen.until(lambda: given() == [job.time], "the showing was not kept")


def test_where_nothing_was_measured_before_it_says_after_only(
    screen: Screen, demo_server: LiveServer, api: httpx.Client
) -> None:
    job = Job(api).describe()
    after = new_id()
    job.swap(after)
    job.measure(after, [[30.0, 30.2, 30.1]])
    screen.open(f"{demo_server.url}/machines/{job.machine}/judge")
    screen.sees("After only")
    assert screen.driver.title == "Judge · Test bench · Lynxbill"


def test_a_reading_that_stands_off_is_asked_about_before_the_verdict_is_seen(
    screen: Screen, demo_server: LiveServer, api: httpx.Client
) -> None:
    job = Job(api).describe()
    job.plan(runs_a_sitting=3).raise_for_status()
    job.measure(job.build, [[40.0, 40.2, 40.1], [40.3, 40.1, 40.2], [40.1, 40.0, 40.2]])
    after = new_id()
    swap = job.swap(after)["id"]
    job.measure(after, [[30.0, 30.2, 30.1], [30.3, 30.1, 30.2]])
    last = job.sitting(after, started_at="2026-05-20T09:00:00Z")
    for position, value in enumerate([301.0, 30.1, 30.2], start=1):
        job.run(last, position, value).raise_for_status()
    screen.open(f"{demo_server.url}/machines/{job.machine}/judge")
    screen.sees("Before the verdict: is one reading typed right?")
    screen.sees("301 s?")
    assert "real" not in screen.text()
    assert Job.find_swap(job.case(), swap)["shown"] == []
    assert next(s for s in job.case()["sittings"] if s["id"] == last)["closed_at"] is None
    screen.activate("All is typed right: judge")
    screen.until(lambda: Job.find_swap(job.case(), swap)["shown"], "no verdict was given")
    assert next(s for s in job.case()["sittings"] if s["id"] == last)["closed_at"] is not None
