/** Starts Percorso in the browser. */
import "@fontsource-variable/overpass/wght.css";
import "@fontsource-variable/overpass-mono/wght.css";
import "@mantine/core/styles.css";
import "./app/app.css";
import "./parts/pages.css";
import "./parts/tables.css";
import "./board/board.css";
import "./circuits/route.css";
import "./circuits/inspector.css";
import "./circuits/trial.css";
import "./app/state.css";
import "./vehicle/vehicle.css";
import "./map/map.css";
import "./jobs/jobs.css";
import "./sheets/sheets.css";
import "./states/states.css";
import "./app/print.css";
import "./loads/loads.css";
import "./checks/checks.css";
import "./trace/trace.css";
import { MantineProvider } from "@mantine/core";
import { PersistQueryClientProvider } from "@tanstack/react-query-persist-client";
import { setNonce } from "get-nonce";
import { StrictMode, useEffect } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, RouterProvider } from "react-router";
import { watchPerson } from "./api/person";
import { queryClient, refreshAll, useSession } from "./api/queries";
import { Shell } from "./app/Shell";
import { cssVariables, theme } from "./app/theme";
import { Board } from "./board/Board";
import { ChecksRoom } from "./checks/ChecksRoom";
import { CircuitRoom, FirstCircuit } from "./circuits/CircuitRoom";
import { JobList } from "./jobs/JobList";
import { OpenJob } from "./jobs/OpenJob";
import { LoadsRoom } from "./loads/LoadsRoom";
import { forgetAllBut, keptAnswers, startOffline } from "./offline/kept";
import { startSaving } from "./saving/saving";
import { useTakenUp } from "./saving/store";
import { SheetsRoom } from "./sheets/SheetsRoom";
import { SignIn } from "./signin/SignIn";
import { StatesRoom } from "./states/StatesRoom";
import { TraceRoom } from "./trace/TraceRoom";
import { VehicleRoom } from "./vehicle/VehicleRoom";
import { HouseRules } from "./workshop/HouseRules";

const router = createBrowserRouter([
  {
    element: <Shell />,
    children: [
      { path: "/", element: <JobList /> },
      { path: "/house-rules", element: <HouseRules /> },
      { path: "/jobs/:jobId", element: <Board /> },
      { path: "/jobs/:jobId/open", element: <OpenJob /> },
      { path: "/jobs/:jobId/vehicle", element: <VehicleRoom /> },
      { path: "/jobs/:jobId/loads", element: <LoadsRoom /> },
      { path: "/jobs/:jobId/circuits", element: <FirstCircuit /> },
      { path: "/jobs/:jobId/circuits/:circuitId", element: <CircuitRoom /> },
      { path: "/jobs/:jobId/states", element: <StatesRoom /> },
      { path: "/jobs/:jobId/tests", element: <ChecksRoom /> },
      { path: "/jobs/:jobId/trace", element: <TraceRoom /> },
      { path: "/jobs/:jobId/sheets", element: <SheetsRoom /> },
      { path: "*", element: <Navigate to="/" replace /> },
    ],
  },
]);

function App() {
  const session = useSession();
  const person = session.data?.person;
  const takenUp = useTakenUp();
  useEffect(() => {
    if (!person) return;
    void forgetAllBut(person);
    startSaving(person, refreshAll);
    watchPerson(() => startSaving(person, refreshAll));
  }, [person]);
  if (session.isPending) {
    return (
      <p className="page quiet">
        {session.failureReason ? `${session.failureReason.message}. Trying again …` : ""}
      </p>
    );
  }
  if (!person) return <SignIn />;
  return takenUp === person ? <RouterProvider router={router} /> : null;
}

startOffline();
const nonce = document.querySelector<HTMLMetaElement>('meta[property="csp-nonce"]')?.nonce ?? "";
setNonce(nonce); // for the styles that dialogs add while they are open
const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <PersistQueryClientProvider client={queryClient} persistOptions={keptAnswers}>
        <MantineProvider
          theme={theme}
          cssVariablesResolver={cssVariables}
          defaultColorScheme="auto"
          getStyleNonce={() => nonce}
        >
          <App />
        </MantineProvider>
      </PersistQueryClientProvider>
    </StrictMode>,
  );
}
