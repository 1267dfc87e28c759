import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button, Input, Select } from "antd";
import { useState } from "react";
import { Link } from "react-router-dom";
import { asked } from "../api/asked";
import { $api, carrying, type Arrival, type MacroCard, type Problem } from "../api/client";
import { Picture } from "../player/Picture";
import { useAddressed } from "../shell/useAddressed";
import { useDrop } from "../shell/useDrop";
import { ArrivalDialog, Parts } from "./Parts";
import styles from "./Shelf.module.css";

const SORTS = [
  { value: "newest", label: "newest first" },
  { value: "used", label: "most used first" },
  { value: "name", label: "by name" },
];

/** Published macros as cards that play when hovered or focused. */
export function Shelf() {
  const found = useQuery(asked.macros());
  const client = useQueryClient();
  const { message } = App.useApp();
  const [text, setText] = useAddressed("words", "");
  const [kind, setKind] = useAddressed("kind", "");
  const [sort, setSort] = useAddressed("sort", "newest");
  const [arrival, setArrival] = useState<{ file: File; arrival: Arrival } | null>(null);
  const told = { meta: { told: true } };
  const readParts = $api.useMutation("post", "/api/parts/read", told);
  const bringMacro = $api.useMutation("post", "/api/macros", told);
  const { modal } = App.useApp();
  const bringOne = async (file: File, decision: "" | "both" | "mine" = "") => {
    try {
      const body = carrying(file, decision ? { decision } : undefined);
      const { said } = await bringMacro.mutateAsync({ body });
      void message.success(said);
    } catch (error) {
      const problem = error as Problem;
      if (problem.status !== 409 || problem.where !== "macro") throw error;
      const again = (next: "both" | "mine") => {
        asking.destroy();
        void bringOne(file, next)
          .catch((fault: Error) => message.error(fault.message))
          .finally(() => client.invalidateQueries({ queryKey: asked.macros().queryKey }));
      };
      const asking = modal.confirm({
        title: "Another macro has this name",
        content: problem.message,
        width: 480,
        footer: (
          <div className="row-end">
            <Button onClick={() => asking.destroy()}>Leave it out</Button>
            <Button onClick={() => again("mine")}>Make it a version of mine</Button>
            <Button type="primary" onClick={() => again("both")}>
              Keep both
            </Button>
          </div>
        ),
      });
    }
  };
  const bring = async (files: File[]) => {
    for (const one of files) {
      try {
        if (one.name.endsWith(".paleparts")) {
          setArrival({ file: one, arrival: await readParts.mutateAsync({ body: carrying(one) }) });
          setKind("part");
          continue;
        }
        await bringOne(one);
      } catch (error) {
        void message.error((error as Error).message);
      }
    }
    await client.invalidateQueries({ queryKey: asked.macros().queryKey });
  };
  const { over, zone, picker } = useDrop((files) => void bring(files), ".palemacro,.paleparts");
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const macros = (found.data?.macros ?? [])
    .filter((one) => !kind || one.kind === kind)
    .filter((one) => {
      const all = [one.name, one.sentence, one.kind, one.author, ...one.tags]
        .concat(one.controls.map((control) => control.label))
        .join(" ")
        .toLowerCase();
      return words.every((word) => all.includes(word));
    })
    .sort((a, b) =>
      sort === "name"
        ? a.name.localeCompare(b.name)
        : sort === "used"
          ? b.uses - a.uses
          : b.published.localeCompare(a.published),
    );
  const known = found.data?.macros.length ?? 0;
  return (
    <main className={`page ${over ? "drop-over" : ""}`} {...zone}>
      <div className="page-head">
        <h1>Shelf</h1>
        <Input
          style={{ width: 260 }}
          type="search"
          aria-label="Search the shelf"
          placeholder="Name, tag, control…"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <Select
          aria-label="Kind"
          value={kind}
          onChange={setKind}
          popupMatchSelectWidth={false}
          options={[
            { value: "", label: "all kinds" },
            ...["transition", "look", "title", "texture"].map((value) => ({ value })),
            { value: "part", label: "kept parts" },
          ]}
        />
        <Select
          aria-label="Order"
          value={sort}
          onChange={setSort}
          popupMatchSelectWidth={false}
          options={SORTS}
        />
        <Button className="right" onClick={picker}>
          Bring in a file
        </Button>
      </div>
      {found.error && <p className="bad">{found.error.detail}</p>}
      {found.data && !known && (
        <p className="empty">
          The shelf is empty. Publish an effect from the Bench, or drop a .palemacro file here.
        </p>
      )}
      {kind === "part" && <Parts words={words} project="" />}
      {arrival && <ArrivalDialog {...arrival} onClose={() => setArrival(null)} />}
      {kind !== "part" && known > 0 && !macros.length && (
        <p className="empty">No macro matches. {known} are hidden.</p>
      )}
      <div className="cards">
        {macros.map((macro) => (
          <ShelfCard
            key={macro.slug}
            macro={macro}
            maker={macros.some((one) => one !== macro && one.name === macro.name)}
            onTag={setText}
          />
        ))}
      </div>
    </main>
  );
}

interface CardProps {
  macro: MacroCard;
  /** Whether the card names its maker, because another macro has the same name. */
  maker: boolean;
  onTag: (tag: string) => void;
}

function ShelfCard({ macro, maker, onTag }: CardProps) {
  const [playing, setPlaying] = useState(false);
  const still = `/api/macros/${macro.slug}/${macro.version}/frame.jpg?frame=${Math.floor(
    macro.frames * 0.48,
  )}&length=${macro.frames}&width=320&height=180`;
  return (
    <article className="card">
      <Link
        to={`/shelf/${macro.slug}`}
        onMouseEnter={() => setPlaying(true)}
        onMouseLeave={() => setPlaying(false)}
        onFocus={() => setPlaying(true)}
        onBlur={() => setPlaying(false)}
      >
        <span className={styles.shelfPicture}>
          <Picture url={still} alt={`${macro.name}, at its middle`} />
          {playing && (
            <img
              className={styles.playing}
              src={`/api/macros/${macro.slug}/${macro.version}/preview.webp`}
              alt=""
            />
          )}
        </span>
        <b>{macro.name}</b>
      </Link>
      <p>{macro.sentence || `A ${macro.kind}.`}</p>
      <p className="soft">
        {macro.kind} · version {macro.version} · {macro.frames} frames
        {maker && macro.author ? ` · by ${macro.author}` : ""}
        {macro.uses ? ` · used ${macro.uses > 1 ? `${macro.uses} times` : "once"}` : ""}
      </p>
      <p className="soft">
        {macro.controls.length
          ? macro.controls.map((control) => control.label).join(", ")
          : "no controls"}
      </p>
      <p className="tags">
        {macro.tags.map((tag) => (
          <button
            key={tag}
            className="bare"
            title="Show all with this tag"
            onClick={() => onTag(tag)}
          >
            {tag}
          </button>
        ))}
      </p>
    </article>
  );
}
