import { Button, Modal, Radio } from "antd";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router-dom";
import { asked } from "../api/asked";
import { $api, type ReelChange, type ReelView } from "../api/client";
import { timecode } from "../player/timecode";
import { useReelState } from "./store";
import type { ChangeReel } from "./useReel";

interface Props {
  view: ReelView;
  rate: number;
  change: ChangeReel;
  onClose: () => void;
}

/** The dialog before a render: it lists what does not match, each with a change that corrects it. */
export function RenderDialog({ view, rate, change, onClose }: Props) {
  const [form, setForm] = useState<"mp4" | "png">("mp4");
  const first = view.mark_in ?? 0;
  const end = view.mark_out ?? view.length;
  const marked = end - first < view.length;
  const selected = useReelState((state) => state.selected);
  const name = selected?.kind === "placed" && selected.names.length === 1 ? selected.names[0] : "";
  const item = view.items.find((one) => one.id === name);
  const [part, setPart] = useState<"all" | "marked" | "item">(marked ? "marked" : "all");
  const navigate = useNavigate();
  const client = useQueryClient();
  const query = asked.preflight(view.id, form);
  const found = useQuery({ ...query, gcTime: 0 });
  const start = $api.useMutation("post", "/api/renders", {
    meta: { told: true },
    onSuccess: () => void navigate("/renders"),
  });
  const findings = found.data?.findings;
  // List the shots of one clip once, and correct them together.
  const alike = new Map<string, { words: string; remedies: ReelChange[] }>();
  for (const { sentence, words, remedy } of findings ?? []) {
    const one = alike.get(sentence) ?? { words, remedies: [] };
    if (remedy) one.remedies.push(remedy);
    alike.set(sentence, one);
  }
  const mend = async (remedies: readonly ReelChange[]) => {
    for (const remedy of remedies) await change(remedy);
    await client.invalidateQueries({ queryKey: query.queryKey });
  };
  return (
    <Modal
      open
      title="Render this edit"
      okText="Start the render"
      onCancel={onClose}
      confirmLoading={start.isPending}
      onOk={() =>
        start.mutate({
          body: {
            reel: view.id,
            form,
            first: part === "marked" ? first : 0,
            ...(part === "marked" ? { frames: end - first } : {}),
            item: part === "item" ? (item?.id ?? "") : "",
          },
        })
      }
    >
      <Radio.Group
        value={form}
        onChange={(event) => setForm(event.target.value as "mp4" | "png")}
        options={[
          { value: "mp4", label: "H.264 video (MP4)" },
          { value: "png", label: "Pictures (PNG, 16 bits)" },
        ]}
      />
      {(marked || item) && (
        <Radio.Group
          value={part}
          onChange={(event) => {
            const next = event.target.value as typeof part;
            setPart(next);
            if (next === "item") setForm("png");
          }}
          options={[
            { value: "all", label: `All of it, ${timecode(view.length, rate)}` },
            ...(marked
              ? [{ value: "marked", label: `From in to out, ${timecode(end - first, rate)}` }]
              : []),
            ...(item
              ? [{ value: "item", label: `Only “${item.name}”, over nothing, with alpha` }]
              : []),
          ]}
        />
      )}
      {findings?.length === 0 && <p className="soft">Everything matches.</p>}
      {[...alike.entries()].map(([sentence, { words, remedies }]) => (
        <p key={sentence} className="note">
          {sentence}
          {remedies.length > 1 && ` (${remedies.length} times)`}{" "}
          {remedies.length > 0 && (
            <Button size="small" onClick={() => void mend(remedies)}>
              {words}
            </Button>
          )}
        </p>
      ))}
      {start.error && <p className="bad">{start.error.detail}</p>}
    </Modal>
  );
}
