import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button } from "antd";
import { Link, useNavigate } from "react-router-dom";
import { api } from "../api/client";
import { Picture } from "../player/Picture";
import "./bench.css";

const KINDS = [
  { kind: "transition", says: "two clips in, one picture out" },
  { kind: "look", says: "one clip in" },
  { kind: "title", says: "text in, over nothing" },
  { kind: "texture", says: "nothing in" },
] as const;

/** Start something new, or go on with a draft. */
export function BenchStart() {
  const found = useQuery({ queryKey: ["drafts"], queryFn: api.drafts });
  const client = useQueryClient();
  const navigate = useNavigate();
  const { message } = App.useApp();
  const start = async (kind: (typeof KINDS)[number]["kind"]) => {
    try {
      const draft = await api.startDraft({ kind, name: `Untitled ${kind}` });
      client.setQueryData(["draft", draft.id], draft);
      void client.invalidateQueries({ queryKey: ["drafts"] });
      void navigate(`/bench/${draft.id}`);
    } catch (error) {
      void message.error((error as Error).message);
    }
  };
  const remove = async (id: number, name: string) => {
    client.setQueryData(["drafts"], await api.removeDraft(id));
    void message.info(
      <>
        {name} removed.{" "}
        <a
          onClick={() =>
            void api.restoreDraft(id).then((after) => client.setQueryData(["drafts"], after))
          }
        >
          Put it back
        </a>
      </>,
    );
  };
  const drafts = found.data?.drafts ?? [];
  return (
    <main className="page">
      <div className="page-head">
        <h1>Start an effect</h1>
      </div>
      <div className="kinds">
        {KINDS.map(({ kind, says }) => (
          <button key={kind} className="bare kind" onClick={() => void start(kind)}>
            <b>New {kind}</b>
            <span className="soft">{says}</span>
          </button>
        ))}
      </div>
      <div className="page-head">
        <h1>Go on with a draft</h1>
      </div>
      {found.error && <p className="bad">{found.error.message}</p>}
      {found.data && !drafts.length && (
        <p className="empty">
          No drafts yet. Start an effect above, or open a copy of a macro from the Shelf.
        </p>
      )}
      <div className="cards">
        {drafts.map((draft) => (
          <article className="card" key={draft.id}>
            <Link to={`/bench/${draft.id}`}>
              <Picture
                url={`/api/effects/${draft.id}/${draft.revision}/frame.jpg?frame=${Math.floor(
                  draft.frames * 0.45,
                )}&length=${draft.frames}&width=320&height=180`}
                alt={`${draft.name}, at its middle`}
              />
              <b>{draft.name}</b>
            </Link>
            <p className="soft">
              {draft.kind} · {draft.words}
            </p>
            <Button size="small" type="text" onClick={() => void remove(draft.id, draft.name)}>
              Remove
            </Button>
          </article>
        ))}
      </div>
    </main>
  );
}
