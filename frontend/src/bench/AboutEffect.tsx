import { Input, Modal, Select } from "antd";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { asked } from "../api/asked";
import { $api, type DraftView } from "../api/client";
import type { ChangeDraft } from "./useDraft";
import styles from "../theme/Form.module.css";

/** Name, sentence, tags and project of an effect. */
export function AboutEffect(props: { draft: DraftView; change: ChangeDraft; onClose: () => void }) {
  const { draft, change, onClose } = props;
  const client = useQueryClient();
  const { effect } = draft;
  const [name, setName] = useState(effect.name);
  const [sentence, setSentence] = useState(effect.sentence ?? "");
  const [tags, setTags] = useState<string[]>([...(effect.tags ?? [])]);
  const [project, setProject] = useState(draft.project);
  const intoProject = $api.useMutation("post", "/api/effects/{number}/project", {
    onSuccess: (after) => client.setQueryData(asked.draft(draft.id).queryKey, after),
  });
  const keep = async () => {
    onClose();
    const head = {
      ...(name.trim() && name.trim() !== effect.name ? { name: name.trim() } : {}),
      ...(sentence !== (effect.sentence ?? "") ? { sentence } : {}),
      ...(tags.join("\n") !== (effect.tags ?? []).join("\n") ? { tags } : {}),
    };
    if (Object.keys(head).length) await change({ do: "set-head", ...head });
    if (project.trim() !== draft.project) {
      const params = { path: { number: draft.id } };
      intoProject.mutate({ params, body: { project: project.trim() } });
    }
  };
  return (
    <Modal
      open
      title={`About this ${effect.kind}`}
      okText="Keep"
      okButtonProps={{ disabled: !name.trim() }}
      onOk={() => void keep()}
      onCancel={onClose}
    >
      <div className={styles.form}>
        <label>
          Name
          <Input
            aria-label="Name of the effect"
            autoFocus
            maxLength={120}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <label>
          In a sentence
          <Input
            aria-label="What it does"
            maxLength={200}
            placeholder="What the editor reads on the shelf"
            value={sentence}
            onChange={(event) => setSentence(event.target.value)}
          />
        </label>
        <label>
          Tags
          <Select
            mode="tags"
            className="wide"
            open={false}
            suffixIcon={null}
            aria-label="Tags of the effect"
            value={tags}
            onChange={setTags}
          />
        </label>
        <label>
          Project
          <Input
            aria-label="Project of the effect"
            maxLength={120}
            placeholder="none"
            value={project}
            onChange={(event) => setProject(event.target.value)}
          />
        </label>
      </div>
    </Modal>
  );
}
