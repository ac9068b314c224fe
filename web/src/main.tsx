import { QueryCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { Problem } from "./api/client";
import { sayWhatWasSeen } from "./api/seen";
import { dismissWithWhatTheyAreAbout, tell, tellOfView } from "./bench/notices";
import { Unreachable } from "./bench/problem";
import { sayWhatIsAsked } from "./bench/underway";
import { Bench } from "./shell/Bench";
import "./theme/theme";
import "./theme/theme.scss";

const client = new QueryClient({
  queryCache: new QueryCache({
    onError: (error, query) => {
      // That the service does not answer is told once, at the top; it is asked again until it does.
      if (error instanceof Unreachable) return;
      if (query.state.data === undefined && query.queryKey[0] !== "review") return;
      // What nobody looks at any more is not told of: a result that was removed is still in view when its answers fail, and is not
      // a moment later.
      window.setTimeout(() => {
        if (query.getObserversCount() && query.state.error === error) tell(error, query.queryHash);
      }, 500);
    },
  }),
  defaultOptions: {
    // What changes the review asks anew for what it changed.
    queries: {
      staleTime: 10_000,
      retry: (count, error) => !(error instanceof Problem) && count < 2,
      refetchOnWindowFocus: false,
      refetchInterval: (query) => (query.state.error instanceof Unreachable ? 2500 : false),
    },
    mutations: { onError: tellOfView },
  },
});

sayWhatWasSeen(client);
sayWhatIsAsked(client);
dismissWithWhatTheyAreAbout(client);

createRoot(document.getElementById("bench")!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <BrowserRouter>
        <Bench />
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);
