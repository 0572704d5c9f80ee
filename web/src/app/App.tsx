import {
  hashKey,
  MutationCache,
  QueryCache,
  QueryClient,
  QueryClientProvider,
  QueryErrorResetBoundary,
} from "@tanstack/react-query";
import { Component, lazy, type ReactNode, Suspense, useState } from "react";
import { createBrowserRouter, Navigate, Outlet, RouterProvider } from "react-router";

import { Lost, Refused } from "../api/client";
import { MachineLayout } from "../job/MachineLayout";
import { draftsInUse, setDraftsAside } from "../lib/draft";
import { Button } from "../ui/Button";
import { Waiting } from "../ui/Note";
import { UndoBar } from "../job/removal/UndoBar";
import { Condition, healthQuery } from "./Condition";
import { SetAside } from "./SetAside";

/** Each screen's own code, read when it is first shown, or in an idle moment before: never while the server is away. */
const SCREENS = {
  bill: () => import("../features/bill/BillPage"),
  home: () => import("../features/home/HomePage"),
  judge: () => import("../features/judge/JudgePage"),
  ladder: () => import("../features/ladder/LadderPage"),
  measure: () => import("../features/measure/MeasurePage"),
  newMachine: () => import("../features/setup/NewMachinePage"),
  plan: () => import("../features/plan/PlanPage"),
  report: () => import("../features/report/ReportPage"),
  setup: () => import("../features/setup/SetupPage"),
  shelf: () => import("../features/shelf/ShelfPage"),
  start: () => import("../features/start/StartPage"),
  columns: () => import("../features/columns/ColumnsPage"),
  swap: () => import("../features/swap/SwapPage"),
} as const;
const BillPage = lazy(() => SCREENS.bill().then(({ BillPage }) => ({ default: BillPage })));
const HomePage = lazy(() => SCREENS.home().then(({ HomePage }) => ({ default: HomePage })));
const JudgePage = lazy(() => SCREENS.judge().then(({ JudgePage }) => ({ default: JudgePage })));
const LadderPage = lazy(() => SCREENS.ladder().then(({ LadderPage }) => ({ default: LadderPage })));
const MeasurePage = lazy(() => SCREENS.measure().then(({ MeasurePage }) => ({ default: MeasurePage })));
const NewMachinePage = lazy(() => SCREENS.newMachine().then((page) => ({ default: page.NewMachinePage })));
const ShelfPage = lazy(() => SCREENS.shelf().then(({ ShelfPage }) => ({ default: ShelfPage })));
const ReportPage = lazy(() => SCREENS.report().then(({ ReportPage }) => ({ default: ReportPage })));
const PlanPage = lazy(() => SCREENS.plan().then(({ PlanPage }) => ({ default: PlanPage })));
const SetupPage = lazy(() => SCREENS.setup().then(({ SetupPage }) => ({ default: SetupPage })));
const ColumnsPage = lazy(() => SCREENS.columns().then((page) => ({ default: page.ColumnsPage })));
const StartPage = lazy(() => SCREENS.start().then(({ StartPage }) => ({ default: StartPage })));
const SwapPage = lazy(() => SCREENS.swap().then(({ SwapPage }) => ({ default: SwapPage })));

/** Reads what is not there yet once the first screen stands, so that a server that goes away takes no screen along. */
export function readEveryScreen(): void {
  setTimeout(() => {
    for (const read of Object.values(SCREENS)) void read().catch(() => undefined);
  }, SOON_MS);
}

const SOON_MS = 500;
/** What found the server away has its condition looked at, so that every screen says so at once. */
const onError = (error: Error) => {
  if (error instanceof Lost) void client.invalidateQueries({ queryKey: healthQuery.queryKey });
};
const client: QueryClient = new QueryClient({
  queryCache: new QueryCache({
    onError: (error, query) => {
      if (query.queryHash !== hashKey(healthQuery.queryKey)) onError(error);
    },
  }),
  mutationCache: new MutationCache({ onError }),
  defaultOptions: {
    queries: { retry: (count, error) => error instanceof Lost && count < 2, staleTime: 1000 },
  },
});

interface FailureProps {
  children: ReactNode;
  onRetry: () => void;
  /** How often the server came back: what only it kept from being shown is tried again. */
  returns: number;
}

/** Shows what went wrong instead of a page, with a way to try again. */
class Failure extends Component<FailureProps, { error: Error | null; drafts: string[] }> {
  override state: { error: Error | null; drafts: string[] } = { error: null, drafts: [] };
  override componentDidUpdate({ returns }: FailureProps) {
    if (returns !== this.props.returns && this.state.error instanceof Lost) this.retry();
  }
  static getDerivedStateFromError = (error: Error) => ({ error, drafts: draftsInUse() });
  override componentDidCatch(error: Error) {
    // What a browser kept may be damaged, or of a form that has changed since: no draft ends a screen.
    if (error instanceof Lost || error instanceof Refused || this.state.drafts.length === 0) return;
    setDraftsAside(this.state.drafts);
    this.retry();
  }
  retry = () => {
    this.props.onRetry();
    this.setState({ error: null, drafts: [] });
  };
  override render() {
    if (!this.state.error) return this.props.children;
    return (
      <main className="p-6">
        <Waiting error={this.state.error} />
        <div className="flex gap-3 px-6">
          <Button look="main" onClick={this.retry}>
            Try again
          </Button>
          <a href="/" className="self-center underline">
            All machines
          </a>
        </div>
      </main>
    );
  }
}

function Frame() {
  const [returns, setReturns] = useState(0);
  return (
    <>
      <Condition onReturn={() => setReturns((count) => count + 1)} />
      <QueryErrorResetBoundary>
        {({ reset }) => (
          <Failure onRetry={reset} returns={returns}>
            <SetAside />
            <Suspense fallback={<Waiting error={null} />}>
              <Outlet />
            </Suspense>
          </Failure>
        )}
      </QueryErrorResetBoundary>
      <UndoBar />
    </>
  );
}

const router = createBrowserRouter([
  {
    element: <Frame />,
    children: [
      { path: "/", element: <HomePage /> },
      { path: "/new", element: <StartPage /> },
      { path: "/columns", element: <ColumnsPage /> },
      { path: "/shelf", element: <ShelfPage /> },
      { path: "/machines/new", element: <NewMachinePage /> },
      {
        path: "/machines/:machineId",
        element: <MachineLayout />,
        children: [
          { index: true, element: <Navigate to="measure" replace /> },
          { path: "setup", element: <SetupPage /> },
          { path: "setup/plan", element: <PlanPage /> },
          { path: "ladder", element: <LadderPage /> },
          { path: "measure", element: <MeasurePage /> },
          { path: "swap", element: <SwapPage /> },
          { path: "judge", element: <JudgePage /> },
          { path: "bill", element: <BillPage /> },
          { path: "report", element: <ReportPage /> },
        ],
      },
      { path: "*", element: <Navigate to="/" replace /> },
    ],
  },
]);

export function App() {
  return (
    <QueryClientProvider client={client}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  );
}
