import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { NavLink, Outlet, useLocation, useNavigate, useParams, useSearchParams } from "react-router";

import { useKeys } from "../lib/keys";
import { Mark } from "../lib/mark";
import { KeysButton, KeysDialog } from "../ui/KeysDialog";
import { TopBar } from "../ui/TopBar";
import { useCase, useMachineEvents } from "./api";
import { takeUp } from "./desk";

const STATIONS = [
  ["setup", "Set up"],
  ["measure", "Measure"],
  ["swap", "Swap"],
  ["judge", "Judge"],
  ["bill", "Bill"],
] as const;

const KEPT = ["swap", "before", "after"];

/** Pages that are no station of their own come first: the plan is a sheet of Set up. */
const PAGES = [["setup/plan", "Plan"], ["ladder", "Ladder"], ["report", "Report"], ...STATIONS] as const;

/** One machine: the five stations along the top, in the order of work. */
export function MachineLayout() {
  const { machineId = "" } = useParams();
  const job = useCase();
  const navigate = useNavigate();
  const [, station] = useLocation().pathname.split(`/${machineId}/`);
  const page = PAGES.find(([path]) => station === path || station?.startsWith(`${path}/`))?.[1] ?? "";
  const [params] = useSearchParams();
  // What was chosen stays chosen on every station.
  const kept = new URLSearchParams(
    KEPT.flatMap((key) => (params.has(key) ? [[key, params.get(key) ?? ""]] : [])),
  );
  const search = kept.toString();
  const [showKeys, setShowKeys] = useState(false);
  useMachineEvents(machineId);
  const client = useQueryClient();
  useEffect(() => takeUp(client, job), [client, job]);
  useKeys({
    "?": () => setShowKeys(true),
    ...Object.fromEntries(
      STATIONS.map(([path], index) => [String(index + 1), () => void navigate({ pathname: path, search })]),
    ),
  });
  return (
    <>
      <TopBar page={page} context={[job.machine.name, job.machine.owner].filter(Boolean).join(" · ")}>
        <nav aria-label="Stations" className="flex flex-wrap gap-1">
          {STATIONS.map(([path, name]) => (
            <NavLink
              key={path}
              to={{ pathname: path, search }}
              className={({ isActive }) =>
                `flex min-h-11 items-center rounded-lg px-4 font-semibold ${isActive ? "bg-ink text-paper" : "text-soft hover:bg-note hover:text-ink"}`
              }
            >
              {name}
            </NavLink>
          ))}
        </nav>
        <KeysButton onOpen={() => setShowKeys(true)} />
      </TopBar>
      <Mark value={job.machine.decimal_mark}>
        <Outlet />
      </Mark>
      <KeysDialog open={showKeys} onClose={() => setShowKeys(false)} />
    </>
  );
}
