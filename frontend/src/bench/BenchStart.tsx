import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Select } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router-dom";
import { asked } from "../api/asked";
import { $api, type DraftCards, type NewDraft } from "../api/client";
import { Picture } from "../player/Picture";
import { useRemoval } from "../shell/useRemoval";
import styles from "./BenchStart.module.css";
import { Starts } from "./adding/Starts";

const KINDS = [
  { kind: "transition", says: "two clips in, one picture out" },
  { kind: "look", says: "one clip in" },
  { kind: "title", says: "text in, over nothing" },
  { kind: "texture", says: "nothing in" },
] as const;

/** Start something new, or continue a draft. */
export function BenchStart() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [project, setProject] = useState("");
  const starting = $api.useMutation("post", "/api/effects", {
    onSuccess: (draft) => {
      client.setQueryData(asked.draft(draft.id).queryKey, draft);
      void client.invalidateQueries({ queryKey: asked.drafts().queryKey });
      void navigate(`/bench/${draft.id}`);
    },
  });
  const start = (body: NewDraft) => starting.mutate({ body });
  return (
    <main className={`page ${styles.start}`}>
      <section>
        <div className="page-head">
          <h1>Start an effect</h1>
        </div>
        <div className={styles.kinds}>
          {KINDS.map(({ kind, says }) => (
            <button
              key={kind}
              className={`bare ${styles.kind}`}
              onClick={() => start({ kind, name: `Untitled ${kind}`, project })}
            >
              <b>New {kind}</b>
              <span className="soft">{says}</span>
            </button>
          ))}
        </div>
        <Starts project={project} onStart={start} />
      </section>
      <Drafts project={project} onProject={setProject} />
    </main>
  );
}

/** Drafts to continue, the one changed last first. */
function Drafts(props: { project: string; onProject: (project: string) => void }) {
  const { project, onProject } = props;
  const found = useQuery(asked.drafts());
  const client = useQueryClient();
  const listed = {
    onSuccess: (after: DraftCards) => client.setQueryData(asked.drafts().queryKey, after),
  };
  const away = $api.useMutation("delete", "/api/effects/{number}", listed);
  const restore = $api.useMutation("post", "/api/effects/{number}/restore", listed);
  const takeAway = useRemoval(away, restore);
  const all = found.data?.drafts ?? [];
  const projects = [...new Set(all.map((one) => one.project).filter(Boolean))];
  const drafts = all.filter((one) => !project || one.project === project);
  return (
    <section>
      <div className="page-head">
        <h1>Go on with a draft</h1>
        {projects.length > 0 && (
          <Select
            aria-label="Project"
            value={project}
            popupMatchSelectWidth={false}
            options={[
              { value: "", label: "all projects" },
              ...projects.map((value) => ({ value })),
            ]}
            onChange={onProject}
          />
        )}
      </div>
      {found.error && <p className="bad">{found.error.detail}</p>}
      {found.data && !drafts.length && (
        <p className="empty">
          No drafts yet. Start an effect here, or open a copy of a macro from the Shelf.
        </p>
      )}
      {drafts.map((draft) => (
        <article className={styles.draft} key={draft.id}>
          <Link to={`/bench/${draft.id}`}>
            <Picture
              url={`/api/effects/${draft.id}/${draft.revision}/frame.jpg?frame=${Math.floor(
                draft.frames * 0.45,
              )}&length=${draft.frames}&width=192&height=108`}
              alt={`${draft.name}, at its middle`}
            />
            <span>
              <b>{draft.name}</b>
              <span className="soft">
                {draft.kind} · {draft.words}
                {draft.project && ` · ${draft.project}`}
              </span>
            </span>
          </Link>
          <Button
            size="small"
            type="text"
            aria-label={`Remove ${draft.name}`}
            title="Remove"
            onClick={() => takeAway({ path: { number: draft.id } }, `${draft.name} removed.`)}
          >
            ×
          </Button>
        </article>
      ))}
    </section>
  );
}
