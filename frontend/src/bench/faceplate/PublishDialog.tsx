import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Input, Modal } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router-dom";
import { asked } from "../../api/asked";
import { $api, type DraftView } from "../../api/client";
import { mostOf } from "../../api/limits";
import { sinceOf } from "../frames";
import type { ChangeDraft } from "../useDraft";
import styles from "../../theme/Form.module.css";

/** Publish a version; open choices are listed first and prevent it. */
export function PublishDialog(props: {
  draft: DraftView;
  change: ChangeDraft;
  open: boolean;
  onClose: () => void;
}) {
  const { draft, change, open, onClose } = props;
  const { message } = App.useApp();
  const client = useQueryClient();
  const navigate = useNavigate();
  const [name, setName] = useState<string>();
  const [author, setAuthor] = useState(localStorage.getItem("pale-static-author") ?? "");
  const [sentence, setSentence] = useState<string>();
  const [changes, setChanges] = useState("");
  const [busy, setBusy] = useState(false);
  const publishing = $api.useMutation("post", "/api/effects/{number}/publish", {
    meta: { told: true },
  });
  const { effect } = draft;
  const controls = (effect.controls ?? []).filter((one) => !one.hidden);
  const shelf = useQuery({ ...asked.macros(), enabled: open && draft.next_version === 1 });
  const whole = useQuery({
    ...asked.coverage({ id: draft.id, revision: sinceOf(draft) }, draft.frames),
    enabled: open,
  });
  const chosen = (name ?? effect.name).trim();
  const taken =
    draft.next_version === 1 &&
    shelf.data?.macros.some((one) => one.name.toLowerCase() === chosen.toLowerCase());

  const publish = async () => {
    setBusy(true);
    try {
      let now = draft;
      const head = {
        name: name?.trim() || effect.name,
        sentence: sentence ?? effect.sentence,
      };
      if (head.name !== effect.name || head.sentence !== effect.sentence) {
        const renamed = await change({ do: "set-head", ...head });
        if (!renamed) return; // refused; the message is shown
        now = renamed;
      }
      const params = { path: { number: draft.id } };
      const body = { base: now.revision, author, changes, licence: "" };
      const found = await publishing.mutateAsync({ params, body });
      localStorage.setItem("pale-static-author", author);
      await client.invalidateQueries({ queryKey: asked.draft(draft.id).queryKey });
      await client.invalidateQueries({ queryKey: asked.macros().queryKey });
      onClose();
      void message.success(
        <>
          Version {found.version} of {head.name} is on the shelf.{" "}
          <button className="link" onClick={() => void navigate(`/shelf/${found.slug}`)}>
            Show it there
          </button>
        </>,
      );
    } catch (error) {
      void message.error((error as Error).message);
      await client.invalidateQueries({ queryKey: asked.draft(draft.id).queryKey });
    } finally {
      setBusy(false);
    }
  };
  return (
    <Modal
      title={`Publish version ${draft.next_version}`}
      open={open}
      onCancel={onClose}
      okText={`Publish version ${draft.next_version}`}
      okButtonProps={{ disabled: draft.findings.length > 0 || !chosen, loading: busy }}
      onOk={() => void publish()}
    >
      {draft.findings.map((one) => (
        <p key={one.sentence} className="note">
          {one.sentence}
        </p>
      ))}
      {(whole.data?.jumps ?? []).map((sentence) => (
        <p key={sentence} className="note" role="status">
          {sentence}
        </p>
      ))}
      <div className={styles.form}>
        <label>
          Name
          <Input
            aria-label="Name"
            maxLength={mostOf("SetHead", "name")}
            value={name ?? effect.name}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        {!chosen && (
          <p className="note" role="status">
            A macro needs a name, so that editors can find it. Type one.
          </p>
        )}
        {taken && (
          <p className="note" role="status">
            Another macro on the shelf is called “{chosen}”. Choose a different name, so that
            editors can tell them apart.
          </p>
        )}
        <label>
          What it does, in one sentence
          <Input
            aria-label="What it does"
            maxLength={mostOf("SetHead", "sentence")}
            showCount
            value={sentence ?? effect.sentence}
            onChange={(event) => setSentence(event.target.value)}
          />
        </label>
        <label>
          Made by
          <Input
            aria-label="Made by"
            maxLength={mostOf("PublishBody", "author")}
            value={author}
            onChange={(event) => setAuthor(event.target.value)}
          />
        </label>
        {draft.next_version > 1 && (
          <label>
            What changed
            <Input.TextArea
              aria-label="What changed"
              maxLength={mostOf("PublishBody", "changes")}
              rows={2}
              value={changes}
              onChange={(event) => setChanges(event.target.value)}
            />
          </label>
        )}
      </div>
      <p className="soft">
        {controls.length
          ? `The editor will see ${controls.map((one) => one.label).join(", ")}.`
          : "Nothing is exposed: the editor will only set its length."}{" "}
        A published version never changes.
      </p>
    </Modal>
  );
}
