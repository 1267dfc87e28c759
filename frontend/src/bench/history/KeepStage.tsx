import { Input, Modal } from "antd";
import { useState } from "react";

interface Props {
  /** The name if none is typed. */
  usual: string;
  onKeep: (name: string) => void;
  onClose: () => void;
}

/** Asks for a name for the effect in its current state. */
export function KeepStage({ usual, onKeep, onClose }: Props) {
  const [name, setName] = useState("");
  const keep = () => {
    onKeep(name.trim() || usual);
    onClose();
  };
  return (
    <Modal title="Save a named state" open okText="Save it" onCancel={onClose} onOk={keep}>
      <p className="soft">
        A name for the current state of the effect, so that you can come back to it.
      </p>
      <Input
        autoFocus
        aria-label="Name of the state"
        placeholder={usual}
        value={name}
        onChange={(event) => setName(event.target.value)}
        onPressEnter={keep}
      />
    </Modal>
  );
}
