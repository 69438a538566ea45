import { notifyManager, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { JobList } from "./jobs/JobList";
import { useAddress } from "./ui/address";
import { Trouble } from "./ui/Trouble";
import { JobWindow } from "./window/JobWindow";
import "./ui/style.css";

const client = new QueryClient();
// What has come is drawn at once, together with what else changes with it, and not a frame later.
notifyManager.setScheduler(queueMicrotask);

function Pages() {
  const job = /^\/job\/([A-Za-z0-9-]+)$/.exec(useAddress());
  return job?.[1] ? <JobWindow key={job[1]} id={job[1]} /> : <JobList />;
}

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <Trouble part="The page">
          <Pages />
        </Trouble>
      </QueryClientProvider>
    </StrictMode>,
  );
}
