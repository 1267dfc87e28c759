import { useQueryClient } from "@tanstack/react-query";
import { App, Button, Modal, Select } from "antd";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router-dom";
import { asked } from "../api/asked";
import { $api, bringIn, carrying } from "../api/client";
import { useDrop } from "../shell/useDrop";

interface Props {
  file: File;
  /** The end of the reel's address. */
  after: string;
  onClose: () => void;
}

const RATES = ["24000/1001", "24", "25", "30000/1001", "30", "50", "60"];

/** Shows an edit of another system before it is kept: changed, left-out and missing things. */
export function ArrivalDialog({ file, after, onClose }: Props) {
  const [rate, setRate] = useState("");
  const [bringing, setBringing] = useState("");
  const navigate = useNavigate();
  const client = useQueryClient();
  const { message } = App.useApp();
  const look = $api.useMutation("post", "/api/reels/arrivals", { meta: { told: true } });
  const keep = $api.useMutation("post", "/api/reels/arrivals", {
    meta: { told: true },
    onSuccess: (made) => {
      void client.invalidateQueries({ queryKey: asked.reels().queryKey });
      void navigate(`/reel/${made.reel}${after}`);
    },
  });
  const { mutate } = look;
  const again = () => mutate({ body: carrying(file, { rate }) });
  useEffect(() => mutate({ body: carrying(file, { rate }) }), [file, rate, mutate]);
  const bring = async (files: File[]) => {
    for (const one of files) {
      setBringing(one.name);
      try {
        await bringIn(one);
      } catch (error) {
        void message.error((error as Error).message, 8);
      }
    }
    setBringing("");
    again();
  };
  const { zone, picker } = useDrop((files) => void bring(files), "video/*,.mkv,image/*,.exr");
  const found = look.data;
  return (
    <Modal
      open
      title={`Bring in ${file.name}`}
      okText="Bring it in"
      okButtonProps={{ disabled: !found?.shots }}
      confirmLoading={keep.isPending}
      onCancel={onClose}
      onOk={() => keep.mutate({ body: carrying(file, { rate, keep: true }) })}
    >
      <div {...zone}>
        {look.isPending && <p className="soft">Reading…</p>}
        {look.error && <p className="bad">{look.error.detail}</p>}
        {found && (
          <p>
            <b>{found.name}</b>: {found.shots} shots, {found.joins} transitions, {found.frames}{" "}
            frames at {Number(rateText(found.rate))} a second.
          </p>
        )}
        {file.name.toLowerCase().endsWith(".edl") && (
          <p>
            <label htmlFor="arrival-rate">The list does not say its frame rate. Read it at </label>
            <Select
              id="arrival-rate"
              aria-label="Frame rate of the list"
              value={rate || found?.rate}
              onChange={setRate}
              options={RATES.map((one) => ({ value: one, label: rateText(one) }))}
            />
          </p>
        )}
        {found && !found.notes.length && !found.missing.length && (
          <p className="soft">Everything in it is known here.</p>
        )}
        {found?.notes.map((sentence) => (
          <p key={sentence} className="note">
            {sentence}
          </p>
        ))}
        {found && found.missing.length > 0 && (
          <>
            <p>
              {found.missing.length === 1
                ? "One file is not among your materials:"
                : `${found.missing.length} files are not among your materials:`}{" "}
              {found.missing.slice(0, 12).join(", ")}
              {found.missing.length > 12 && " …"}. Plain cards stand in their places.
            </p>
            <Button onClick={picker} loading={Boolean(bringing)}>
              {bringing ? `Bringing in ${bringing}…` : "Bring in the missing files"}
            </Button>
          </>
        )}
        {keep.error && <p className="bad">{keep.error.detail}</p>}
      </div>
    </Modal>
  );
}

/** A rate such as 30000/1001 as people write it. */
function rateText(rate: string): string {
  const [top, bottom = "1"] = rate.split("/");
  return String(Number((Number(top) / Number(bottom)).toFixed(3)));
}
