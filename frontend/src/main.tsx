import "@fontsource/ibm-plex-mono/400.css";
import "@fontsource/ibm-plex-mono/500.css";
import "@fontsource/ibm-plex-sans-condensed/400.css";
import "@fontsource/ibm-plex-sans-condensed/500.css";
import "@fontsource/ibm-plex-sans-condensed/600.css";
import "@fontsource/ibm-plex-sans/400.css";
import "@fontsource/ibm-plex-sans/500.css";
import "@fontsource/ibm-plex-sans/600.css";
import { MutationCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { createRoot } from "react-dom/client";
import { App } from "./App";
import { asked } from "./api/asked";
import { passes, type Problem } from "./api/client";
import { loadAt } from "./places";
// All styles come with the first page, in this order, because places share them and load
// separately.
import "virtual:antd.css";
import "./theme/tokens.css";
import "./theme/shared.css";

const client: QueryClient = new QueryClient({
  // A change may affect any list, so each list is read again when it is next opened.
  mutationCache: new MutationCache({
    onSuccess: () =>
      client.invalidateQueries({
        refetchType: "none",
        predicate: ({ options }) => (options as { staleTime?: number }).staleTime !== Infinity,
      }),
  }),
  defaultOptions: {
    queries: {
      staleTime: 2000,
      // A fault from the server stays the same after a retry; a missing answer may come.
      retry: (count, error) => count < 2 && passes(error as Problem),
    },
  },
});

// Wait for the data of the first place, so that it is drawn once and completely; meanwhile the page
// shows the product's name. The place itself shows a failure.
const steps = location.pathname.startsWith("/bench/")
  ? client.prefetchQuery(asked.steps())
  : undefined;
try {
  const { place, opened } = await loadAt(location.pathname);
  const id = Number(opened);
  if (place === "bench" && opened) await client.prefetchQuery(asked.draft(id));
  await steps;
} catch (error) {
  console.error(error);
}

createRoot(document.getElementById("root")!).render(
  <QueryClientProvider client={client}>
    <App />
  </QueryClientProvider>,
);
