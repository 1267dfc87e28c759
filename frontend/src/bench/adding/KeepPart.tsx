import { App, Button, Input, Modal, Radio } from "antd";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router-dom";
import { asked } from "../../api/asked";
import { $api, type DraftView, type Problem } from "../../api/client";
import { PartFields } from "../../controls/PartFields";
import type { Place } from "../store";
import styles from "../../theme/Form.module.css";

interface Props {
  draft: DraftView;
  steps: Place[];
  lanes: string[];
  frame: number;
  length: number;
  onClose: () => void;
}

/** Keep steps or lanes for use again, in this project or in all. */
export function KeepPart({ draft, steps, lanes, frame, length, onClose }: Props) {
  const client = useQueryClient();
  const { message } = App.useApp();
  const known = useQuery(asked.parts());
  const [words, setWords] = useState({
    name: draft.effect.lanes.find((one) => one.id === (lanes[0] ?? steps[0]?.lane))?.name ?? "",
    collection: "",
    tags: [] as string[],
    notes: "",
  });
  const [project, setProject] = useState(draft.project);
  const [everywhere, setEverywhere] = useState(!draft.project);
  const [taken, setTaken] = useState("");
  const intoProject = $api.useMutation("post", "/api/effects/{number}/project", {
    meta: { told: true },
    onSuccess: (after) => client.setQueryData(asked.draft(draft.id).queryKey, after),
  });
  const keeping = $api.useMutation("post", "/api/parts", { meta: { told: true } });
  const busy = intoProject.isPending || keeping.isPending;
  const keep = async (replace: boolean) => {
    try {
      if (!everywhere && project.trim() !== draft.project) {
        const params = { path: { number: draft.id } };
        await intoProject.mutateAsync({ params, body: { project: project.trim() } });
      }
      const kept = await keeping.mutateAsync({
        body: {
          draft: draft.id,
          base: draft.revision,
          steps: lanes.length ? [] : steps,
          lanes,
          ...words,
          project: everywhere ? "" : project.trim(),
          frame,
          length,
          replace,
        },
      });
      void client.invalidateQueries({ queryKey: asked.parts().queryKey });
      void message.success(
        <>
          “{kept.part.name}” is kept. <Link to="/shelf?kind=part">See it on the Shelf</Link>
        </>,
      );
      onClose();
    } catch (error) {
      if ((error as Problem).where === "name") setTaken((error as Error).message);
      else void message.error((error as Error).message);
    }
  };
  const collections = [...new Set((known.data?.parts ?? []).map((one) => one.collection))];
  const many = lanes.length
    ? `${lanes.length} lane${lanes.length > 1 ? "s" : ""}`
    : `${steps.length} step${steps.length > 1 ? "s" : ""}`;
  return (
    <Modal
      open
      title={`Keep ${many} as a part`}
      onCancel={onClose}
      footer={[
        <Button key="cancel" onClick={onClose}>
          Cancel
        </Button>,
        ...(taken
          ? [
              <Button key="replace" danger loading={busy} onClick={() => void keep(true)}>
                Replace that one
              </Button>,
            ]
          : []),
        <Button
          key="keep"
          type="primary"
          loading={busy}
          disabled={!words.name.trim() || (!everywhere && !project.trim())}
          onClick={() => void keep(false)}
        >
          Keep it
        </Button>,
      ]}
    >
      <div className={styles.form}>
        <PartFields
          words={words}
          collections={collections}
          fault={taken}
          onChange={(more) => {
            setWords({ ...words, ...more });
            setTaken("");
          }}
        />
        <Radio.Group
          value={everywhere}
          onChange={(event) => setEverywhere(event.target.value as boolean)}
        >
          <Radio value>for all projects</Radio>
          <Radio value={false}>for the project</Radio>
        </Radio.Group>
        {!everywhere && (
          <Input
            aria-label="Project"
            maxLength={120}
            placeholder="name of the project"
            value={project}
            onChange={(event) => setProject(event.target.value)}
          />
        )}
      </div>
    </Modal>
  );
}
