import { useQuery } from "@tanstack/react-query";
import { api, type DraftView } from "../api/client";
import type { useDraft } from "./useDraft";

interface Props {
  draft: DraftView;
  run: ReturnType<typeof useDraft>["run"];
}

/** Every accepted edit in words; going back is a new edit, so nothing is lost. */
export function HistoryList({ draft, run }: Props) {
  const found = useQuery({
    queryKey: ["history", draft.id, draft.revision],
    queryFn: () => api.history(draft.id),
    placeholderData: (before) => before,
  });
  return (
    <ol className="history">
      {(found.data?.revisions ?? []).map((one) => (
        <li key={one.id}>
          <button
            className="bare"
            disabled={one.head}
            aria-current={one.head}
            onClick={() => void run(() => api.goTo(draft.id, one.id))}
          >
            <span className="mono soft">
              {new Date(one.made).toLocaleTimeString("en-GB", {
                hour: "2-digit",
                minute: "2-digit",
              })}
            </span>
            {one.stage && <b className="stage">{one.stage}</b>}
            <span>{one.words}</span>
            <span className="right soft">{one.head ? "as it stands" : "go back to this"}</span>
          </button>
        </li>
      ))}
    </ol>
  );
}
