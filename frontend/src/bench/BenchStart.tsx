import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router-dom";
import { asked } from "../api/asked";
import { $api, type DraftCards, type NewDraft } from "../api/client";
import { Picture } from "../player/Picture";
import { useRemoval } from "../shell/useRemoval";
import styles from "./BenchStart.module.css";

const KINDS = [
  { kind: "transition", says: "two clips in, one picture out" },
  { kind: "look", says: "one clip in" },
  { kind: "title", says: "text in, over nothing" },
  { kind: "texture", says: "nothing in" },
] as const;

type Kind = (typeof KINDS)[number]["kind"];

function matches(text: string, said: readonly string[]): boolean {
  const all = said.join(" ").toLowerCase();
  return text
    .toLowerCase()
    .split(/\s+/)
    .every((word) => all.includes(word));
}

/** Start something new, or go on with a draft. */
export function BenchStart() {
  const found = useQuery(asked.drafts());
  const client = useQueryClient();
  const navigate = useNavigate();
  const macros = useQuery(asked.macros());
  const parts = useQuery(asked.parts());
  const [from, setFrom] = useState<"macro" | "part" | null>(null);
  const [text, setText] = useState("");
  const [partKind, setPartKind] = useState<Kind>("look");
  const [project, setProject] = useState("");
  const starting = $api.useMutation("post", "/api/effects", {
    onSuccess: (draft) => {
      client.setQueryData(asked.draft(draft.id).queryKey, draft);
      void client.invalidateQueries({ queryKey: asked.drafts().queryKey });
      void navigate(`/bench/${draft.id}`);
    },
  });
  const start = (body: NewDraft) => starting.mutate({ body });
  const listed = {
    onSuccess: (after: DraftCards) => client.setQueryData(asked.drafts().queryKey, after),
  };
  const away = $api.useMutation("delete", "/api/effects/{number}", listed);
  const restore = $api.useMutation("post", "/api/effects/{number}/restore", listed);
  const takeAway = useRemoval(away, restore);
  const remove = (id: number, name: string) =>
    takeAway({ path: { number: id } }, `${name} removed.`);
  const all = found.data?.drafts ?? [];
  const projects = [...new Set(all.map((one) => one.project).filter(Boolean))];
  const drafts = all.filter((one) => !project || one.project === project);
  return (
    <main className="page">
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
      <div className={`page-head ${styles.starts}`}>
        <Button
          aria-pressed={from === "macro"}
          onClick={() => setFrom(from === "macro" ? null : "macro")}
        >
          Start from a macro
        </Button>
        <Button
          aria-pressed={from === "part"}
          onClick={() => setFrom(from === "part" ? null : "part")}
        >
          Start from a part
        </Button>
        {from && (
          <Input
            style={{ width: 240 }}
            type="search"
            aria-label={`Search ${from === "macro" ? "macros" : "parts"}`}
            placeholder="Name, tag…"
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
        )}
        {from === "part" && (
          <Select
            aria-label="Kind of the new effect"
            value={partKind}
            popupMatchSelectWidth={false}
            options={KINDS.map(({ kind }) => ({ value: kind, label: `as a ${kind}` }))}
            onChange={setPartKind}
          />
        )}
      </div>
      {from === "macro" && (
        <div className={`cards ${styles.from}`}>
          {(macros.data?.macros ?? [])
            .filter((one) => matches(text, [one.name, one.sentence, ...one.tags]))
            .map((one) => (
              <button
                key={one.slug}
                className="bare card"
                onClick={() => start({ macro: one.slug, version: one.version })}
              >
                <Picture
                  url={`/api/macros/${one.slug}/${one.version}/frame.jpg?frame=${Math.floor(
                    one.frames * 0.48,
                  )}&length=${one.frames}&width=320&height=180`}
                  alt=""
                />
                <b>A copy of {one.name}</b>
              </button>
            ))}
        </div>
      )}
      {from === "part" && (
        <div className={`cards ${styles.from}`}>
          {(parts.data?.parts ?? [])
            .filter((one) =>
              matches(text, [one.part.name, one.collection, ...(one.part.tags ?? [])]),
            )
            .map((one) => (
              <button
                key={one.id}
                className="bare card"
                onClick={() =>
                  start({
                    kind: partKind,
                    name: one.part.name,
                    part: one.id,
                    project: one.project,
                  })
                }
              >
                <Picture url={`/api/parts/${one.id}/picture.jpg`} alt="" />
                <b>With {one.part.name}</b>
              </button>
            ))}
          {parts.data && !parts.data.parts.length && (
            <p className="empty">No parts are kept yet.</p>
          )}
        </div>
      )}
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
            onChange={setProject}
          />
        )}
      </div>
      {found.error && <p className="bad">{found.error.detail}</p>}
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
              {draft.project && ` · ${draft.project}`}
            </p>
            <Button size="small" type="text" onClick={() => remove(draft.id, draft.name)}>
              Remove
            </Button>
          </article>
        ))}
      </div>
    </main>
  );
}
