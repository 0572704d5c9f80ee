import { QueryClient, QueryClientProvider, QueryErrorResetBoundary } from "@tanstack/react-query";
import { Component, type ReactNode, Suspense } from "react";
import { createBrowserRouter, Navigate, Outlet, RouterProvider } from "react-router";

import { Lost } from "../api/client";
import { BillPage } from "../features/bill/BillPage";
import { HomePage } from "../features/home/HomePage";
import { NewMachinePage } from "../features/setup/NewMachinePage";
import { JudgePage } from "../features/judge/JudgePage";
import { LadderPage } from "../features/ladder/LadderPage";
import { MachineLayout } from "../features/machine/MachineLayout";
import { MeasurePage } from "../features/measure/MeasurePage";
import { PlanPage } from "../features/plan/PlanPage";
import { SetupPage } from "../features/setup/SetupPage";
import { SwapPage } from "../features/swap/SwapPage";
import { Button } from "../ui/Button";
import { Waiting } from "../ui/Note";

const client = new QueryClient({
  defaultOptions: {
    queries: { retry: (count, error) => error instanceof Lost && count < 2, staleTime: 1000 },
  },
});

/** Shows what went wrong instead of a page, with a way to try again. */
class Failure extends Component<{ children: ReactNode; onRetry: () => void }, { error: Error | null }> {
  override state: { error: Error | null } = { error: null };
  static getDerivedStateFromError = (error: Error) => ({ error });
  retry = () => {
    this.props.onRetry();
    this.setState({ error: null });
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
  return (
    <QueryErrorResetBoundary>
      {({ reset }) => (
        <Failure onRetry={reset}>
          <Suspense fallback={<Waiting error={null} />}>
            <Outlet />
          </Suspense>
        </Failure>
      )}
    </QueryErrorResetBoundary>
  );
}

const router = createBrowserRouter([
  {
    element: <Frame />,
    children: [
      { path: "/", element: <HomePage /> },
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
