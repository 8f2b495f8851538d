import CssBaseline from "@mui/material/CssBaseline";
import { ThemeProvider } from "@mui/material/styles";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { lazy, Suspense, useMemo } from "react";
import { createBrowserRouter, RouterProvider } from "react-router";
import { Job } from "../job/Job";
import { NewJob } from "../newjob/NewJob";
import { Yard } from "../yard/Yard";
import { NotHere } from "./NotHere";
import { PreferencesProvider, usePreferences } from "./preferences";
import { Shell } from "./Shell";
import { ShortcutProvider } from "./shortcuts";
import { emberTheme } from "./theme";
import { Waiting } from "./Waiting";

// Read later than the yard and the job, so loaded later too.
const ProofView = lazy(() => import("../proof/ProofView"));
const CountsView = lazy(() => import("../counts/CountsView"));
const LinkView = lazy(() => import("../link/LinkView"));
const UnitsView = lazy(() => import("../units/UnitsView"));
const LogView = lazy(() => import("../logs/LogView"));
const RecordingScreen = lazy(() => import("../evidence/RecordingScreen"));
const SuspectsView = lazy(() => import("../suspects/SuspectsView"));
const BookView = lazy(() => import("../book/BookView"));
const FaultPage = lazy(() => import("../book/FaultPage"));
const TestPage = lazy(() => import("../book/TestPage"));
const WorkshopPage = lazy(() => import("../book/WorkshopPage"));
const BenchView = lazy(() => import("../bench/BenchView"));
const ScopeView = lazy(() => import("../scope/ScopeView"));
const CaptureScreen = lazy(() => import("../scope/CaptureScreen"));
const RepairView = lazy(() => import("../repair/RepairView"));
const FindView = lazy(() => import("../depot/FindView"));
const DepotView = lazy(() => import("../depot/DepotView"));
const VehicleView = lazy(() => import("../depot/VehicleView"));
const Report = lazy(() => import("../report/Report"));

const queries = new QueryClient({ defaultOptions: { queries: { staleTime: 2_000 } } });

const later = (view: React.ReactNode) => <Suspense fallback={<Waiting what="the view" />}>{view}</Suspense>;

const router = createBrowserRouter([
  {
    element: <Shell />,
    children: [
      { path: "/", element: <Yard /> },
      { path: "/new", element: <NewJob /> },
      { path: "/jobs/:id", element: <Job /> },
      { path: "/jobs/:id/counts", element: later(<CountsView />) },
      { path: "/jobs/:id/proof", element: later(<ProofView />) },
      { path: "/jobs/:id/report", element: later(<Report />) },
      { path: "/jobs/:id/link", element: later(<LinkView />) },
      { path: "/jobs/:id/units", element: later(<UnitsView />) },
      { path: "/jobs/:id/log", element: later(<LogView />) },
      { path: "/jobs/:id/suspects", element: later(<SuspectsView />) },
      { path: "/jobs/:id/bench", element: later(<BenchView />) },
      { path: "/jobs/:id/repair", element: later(<RepairView />) },
      { path: "/find", element: later(<FindView />) },
      { path: "/depot", element: later(<DepotView />) },
      { path: "/vehicles/:id", element: later(<VehicleView />) },
      { path: "/jobs/:id/scope", element: later(<ScopeView />) },
      { path: "/captures/:id", element: later(<CaptureScreen />) },
      { path: "/book", element: later(<BookView />) },
      { path: "/book/faults/:id", element: later(<FaultPage />) },
      { path: "/book/tests/:id", element: later(<TestPage />) },
      { path: "/book/workshop", element: later(<WorkshopPage />) },
      { path: "/recordings/:id", element: later(<RecordingScreen />) },
      { path: "*", element: <NotHere what="page" /> },
    ],
  },
]);

function Themed() {
  const { theme: name } = usePreferences();
  const theme = useMemo(() => emberTheme(name), [name]);
  return (
    <ThemeProvider theme={theme}>
      <CssBaseline />
      <RouterProvider router={router} />
    </ThemeProvider>
  );
}

export function App() {
  return (
    <QueryClientProvider client={queries}>
      <PreferencesProvider>
        <ShortcutProvider>
          <Themed />
        </ShortcutProvider>
      </PreferencesProvider>
    </QueryClientProvider>
  );
}
