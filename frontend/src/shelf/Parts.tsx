import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Input, Modal, Radio } from "antd";
import { useState } from "react";
import { asked } from "../api/asked";
import { $api, carrying, query, type Arrival, type PartList, type PartView } from "../api/client";
import { Picture } from "../player/Picture";
import { PartFields } from "../controls/PartFields";
import { MoreMenu } from "../shell/MenuButton";
import styles from "./Parts.module.css";
import { useRemoval } from "../shell/useRemoval";
import formStyles from "../theme/Form.module.css";

/** Kept parts by collection: rename, tag, move, hand over and bring in. */
export function Parts({ words, project }: { words: readonly string[]; project: string }) {
  const found = useQuery(asked.parts());
  const client = useQueryClient();
  const [open, setOpen] = useState<PartView | null>(null);
  const parts = (found.data?.parts ?? []).filter((one) => {
    const all = [one.part.name, one.collection, one.part.notes, ...(one.part.tags ?? [])];
    const said = all.join(" ").toLowerCase();
    return (
      (!project || !one.project || one.project === project) &&
      words.every((word) => said.includes(word))
    );
  });
  const listed = {
    onSuccess: (after: PartList) => client.setQueryData(asked.parts().queryKey, after),
  };
  const away = $api.useMutation("delete", "/api/parts/{number}", listed);
  const restore = $api.useMutation("post", "/api/parts/{number}/restore", listed);
  const takeAway = useRemoval(away, restore);
  const remove = (one: PartView) =>
    takeAway({ path: { number: one.id } }, `${one.part.name} removed.`);
  const collections = [...new Set(parts.map((one) => one.collection))];
  if (found.data && !parts.length)
    return (
      <p className="empty">
        {words.length
          ? "No part matches."
          : "No parts are kept yet. On the Bench, pick steps with Ctrl-click and choose “Keep as a part”, or drop a .paleparts file here."}
      </p>
    );
  return (
    <>
      {collections.map((collection) => (
        <section key={collection} aria-label={collection || "Without a collection"}>
          <div className={`page-head ${styles.collectionHead}`}>
            <h2>{collection || "Without a collection"}</h2>
            <a
              href={`/api/parts/file.paleparts?${query({ name: collection, project })}`}
              download={`${collection || "parts"}.paleparts`}
            >
              Hand over as a file
            </a>
          </div>
          <div className="cards">
            {parts
              .filter((one) => one.collection === collection)
              .map((one) => (
                <article className="card" key={one.id} aria-label={`Part ${one.part.name}`}>
                  <Picture url={one.picture} alt="" />
                  <b>{one.part.name}</b>
                  {one.part.notes && <p>{one.part.notes}</p>}
                  <p className="soft">
                    {one.part.kind === "lanes" && `${many(one.part.lanes.length, "lane")}, `}
                    {many(one.steps, "step")}
                    {one.part.inputs?.length
                      ? ` · ${many(one.part.inputs.length, "input")} to choose`
                      : ""}
                    {one.project ? ` · for ${one.project}` : " · for all projects"}
                  </p>
                  <p className="tags">
                    {(one.part.tags ?? []).map((tag) => (
                      <span key={tag}>{tag}</span>
                    ))}
                  </p>
                  <MoreMenu
                    label={`${one.part.name}: more`}
                    items={[
                      { key: "about", label: "Rename, tag or move" },
                      { key: "remove", label: "Remove", danger: true },
                    ]}
                    onPick={(key) => (key === "about" ? setOpen(one) : remove(one))}
                  />
                </article>
              ))}
          </div>
        </section>
      ))}
      {open && <AboutPart one={open} collections={collections} onClose={() => setOpen(null)} />}
    </>
  );
}

/** A count of things, in words. */
const many = (count: number, thing: string) => `${count} ${thing}${count === 1 ? "" : "s"}`;

function AboutPart(props: { one: PartView; collections: string[]; onClose: () => void }) {
  const { one, collections, onClose } = props;
  const client = useQueryClient();
  const [about, setAbout] = useState({
    name: one.part.name,
    notes: one.part.notes ?? "",
    tags: [...(one.part.tags ?? [])],
    collection: one.collection,
    project: one.project,
  });
  const describe = $api.useMutation("post", "/api/parts/{number}", {
    meta: { told: true },
    onSuccess: (after) => {
      client.setQueryData(asked.parts().queryKey, after);
      onClose();
    },
  });
  const keep = () => describe.mutate({ params: { path: { number: one.id } }, body: about });
  return (
    <Modal open title="About this part" okText="Keep" onOk={keep} onCancel={onClose}>
      <div className={formStyles.form}>
        <PartFields
          words={about}
          collections={collections}
          fault={describe.error?.detail ?? ""}
          onChange={(more) => {
            setAbout({ ...about, ...more });
            describe.reset();
          }}
        />
        <label>
          Project <span className="soft">(empty: for all projects)</span>
          <Input
            aria-label="Project of the part"
            value={about.project}
            onChange={(event) => setAbout({ ...about, project: event.target.value })}
          />
        </label>
      </div>
    </Modal>
  );
}

type Decision = "skip" | "replace" | "both";

/** A file of parts before it is brought in: the person decides every clash of names here. */
export function ArrivalDialog(props: { file: File; arrival: Arrival; onClose: () => void }) {
  const { file, arrival, onClose } = props;
  const client = useQueryClient();
  const { message } = App.useApp();
  const [decisions, setDecisions] = useState<Record<string, Decision>>({});
  const clashes = arrival.parts.filter((one) => one.here === "another");
  const open = clashes.filter((one) => !(one.name in decisions));
  const nothing = arrival.parts.every((one) => one.here === "the same");
  const takeIn = $api.useMutation("post", "/api/parts/take-in", {
    onSuccess: (taken) => {
      client.setQueryData(asked.parts().queryKey, taken);
      void message.success(taken.said.slice(0, 6).join(" "));
      onClose();
    },
  });
  const take = () => takeIn.mutate({ body: carrying(file, { decisions }) });
  return (
    <Modal
      open
      title={`Take in “${arrival.collection.name}”`}
      okText={nothing ? "Close" : open.length ? `${open.length} still to decide` : "Take it in"}
      okButtonProps={{ disabled: open.length > 0 }}
      {...(nothing ? { cancelButtonProps: { style: { display: "none" } } } : {})}
      onOk={() => (nothing ? onClose() : take())}
      onCancel={onClose}
    >
      <p className="soft">
        {nothing
          ? "You have all of it already; there is nothing to take in."
          : "Nothing of yours changes unless you say so here."}
      </p>
      <ul className={styles.arrival}>
        {arrival.parts.map((one) => (
          <li key={one.name}>
            <span>
              <b>{one.name}</b>{" "}
              <span className="soft">
                {one.here === "nothing"
                  ? "is new"
                  : one.here === "the same"
                    ? "you have the same part"
                    : "you have a different part of this name"}
              </span>
            </span>
            {one.here === "another" && (
              <Radio.Group
                size="small"
                aria-label={`What to do with ${one.name}`}
                optionType="button"
                value={decisions[one.name]}
                onChange={(event) =>
                  setDecisions({ ...decisions, [one.name]: event.target.value as Decision })
                }
                options={[
                  { value: "skip", label: "keep mine" },
                  { value: "replace", label: "take theirs" },
                  { value: "both", label: "keep both" },
                ]}
              />
            )}
          </li>
        ))}
      </ul>
    </Modal>
  );
}
