import { Button, Checkbox, Modal, Radio } from "antd";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router-dom";
import { asked } from "../api/asked";
import { $api, type ReelChange, type ReelView } from "../api/client";
import { timecode } from "../player/timecode";
import { FormatFields } from "./FormatFields";
import { reelStore, useReelState } from "./store";
import type { ChangeReel } from "./useReel";

interface Props {
  view: ReelView;
  rate: number;
  change: ChangeReel;
  onClose: () => void;
}

type Part = "all" | "marked" | "item";

/** The dialog before a render: it lists what does not match, each with a change that corrects it. */
export function RenderDialog({ view, rate, change, onClose }: Props) {
  const [form, setForm] = useState("mp4");
  const [quality, setQuality] = useState<string | number>();
  const [clear, setClear] = useState(false);
  const [copy, setCopy] = useState(false);
  const first = view.mark_in ?? 0;
  const end = view.mark_out ?? view.length;
  const marked = end - first < view.length;
  const selected = useReelState((state) => state.selected);
  const name = selected?.kind === "placed" && selected.names.length === 1 ? selected.names[0] : "";
  const item = view.items.find((one) => one.id === name);
  const [part, setPart] = useState<Part>(marked ? "marked" : "all");
  const navigate = useNavigate();
  const client = useQueryClient();
  const query = asked.preflight(view.id, form);
  const found = useQuery({ ...query, gcTime: 0 });
  const format = useQuery(asked.formats()).data?.formats.find((one) => one.slug === form);
  const start = $api.useMutation("post", "/api/renders", {
    meta: { told: true },
    onSuccess: () => void navigate("/renders"),
  });
  const span =
    part === "marked" ? { first, frames: end - first } : { first: 0, frames: view.length };
  const expected = useQuery({
    ...asked.expected(view, form, span.first, span.frames),
    enabled: view.length > 0 && part !== "item",
    retry: false,
  });
  const findings = found.data?.findings;
  const mend = async (remedies: readonly ReelChange[]) => {
    for (const remedy of remedies) await change(remedy);
    await client.invalidateQueries({ queryKey: query.queryKey });
  };
  const still = format?.shape === "still";
  const choose = (slug: string) => {
    setForm(slug);
    setQuality(undefined);
  };
  return (
    <Modal
      open
      title="Render this edit"
      okText="Start the render"
      width={560}
      onCancel={onClose}
      confirmLoading={start.isPending}
      onOk={() =>
        start.mutate({
          body: {
            reel: view.id,
            form,
            first: still ? reelStore.getState().frame : part === "marked" ? first : 0,
            ...(part === "marked" && !still ? { frames: end - first } : {}),
            item: part === "item" ? (item?.id ?? "") : "",
            clear: clear && !!format?.alpha,
            copy_unchanged: copy && !!format?.copies,
            ...(quality === undefined ? {} : { quality }),
            told: (findings ?? []).map((one) => one.sentence),
          },
        })
      }
    >
      <FormatFields
        form={form}
        alphaOnly={part === "item"}
        quality={quality}
        expected={expected.data?.qualities}
        onForm={choose}
        onQuality={setQuality}
      />
      {(marked || item) && (
        <Radio.Group
          value={part}
          onChange={(event) => {
            const next = event.target.value as Part;
            setPart(next);
            if (next === "item" && !format?.alpha) choose("png");
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
      {format?.alpha && part !== "item" && (
        <Checkbox checked={clear} onChange={(event) => setClear(event.target.checked)}>
          Leave empty parts of the frame clear instead of black
        </Checkbox>
      )}
      {format?.copies && (
        <Checkbox checked={copy} onChange={(event) => setCopy(event.target.checked)}>
          Copy parts of clips that nothing changes, where a clip has this format already
        </Checkbox>
      )}
      {findings?.length === 0 && <p className="soft">Everything matches.</p>}
      {findings?.map(({ sentence, words, remedies }) => (
        <p key={sentence} className="note">
          {sentence}{" "}
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
