import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button, Input, Popover } from "antd";
import { useState } from "react";
import { asked } from "../../api/asked";
import { $api } from "../../api/client";
import { Picture } from "../../player/Picture";
import styles from "./Face.module.css";

interface Props {
  macro: string;
  /** What is set now. */
  settings: Record<string, unknown>;
  /** The address of a picture with these settings. */
  pictureOf: (settings: Record<string, unknown>) => string;
  aspect: number;
  onTry: (settings: Record<string, unknown> | null) => void;
  onTake: (settings: Record<string, unknown>) => void;
}

/** Named settings that are kept with the macro; a click applies them. */
export function KeptSettings(props: Props) {
  const { macro, settings, pictureOf, aspect, onTry, onTake } = props;
  const [name, setName] = useState("");
  const [naming, setNaming] = useState(false);
  const client = useQueryClient();
  const { message } = App.useApp();
  const query = asked.keptSettings(macro);
  const found = useQuery(query);
  const listed = {
    onSuccess: (after: { sets: { name: string; settings: Record<string, unknown> }[] }) =>
      client.setQueryData(query.queryKey, after),
  };
  const keep = $api.useMutation("post", "/api/macros/{slug}/settings", listed);
  const forget = $api.useMutation("delete", "/api/macros/{slug}/settings/{name}", listed);
  const sets = found.data?.sets ?? [];
  const params = { path: { slug: macro } };
  const save = () => {
    const title = name.trim();
    if (!title) return;
    keep.mutate({ params, body: { name: title, settings } });
    setNaming(false);
    setName("");
  };
  const remove = (one: (typeof sets)[number]) =>
    forget.mutate(
      { params: { path: { slug: macro, name: one.name } } },
      {
        onSuccess: () =>
          void message.info(
            <>
              “{one.name}” removed.{" "}
              <button className="link" onClick={() => keep.mutate({ params, body: one })}>
                Put it back
              </button>
            </>,
          ),
      },
    );
  return (
    <p className={styles.kept}>
      Settings:{" "}
      {sets.map((one) => (
        <Popover
          key={one.name}
          mouseEnterDelay={0.25}
          content={
            <span className={styles.keptPicture}>
              <Picture url={pictureOf(one.settings)} alt={one.name} aspect={aspect} />
              <Button size="small" onClick={() => remove(one)}>
                Remove “{one.name}”
              </Button>
            </span>
          }
        >
          <button
            className="link"
            onMouseEnter={() => onTry(one.settings)}
            onMouseLeave={() => onTry(null)}
            onClick={() => onTake(one.settings)}
          >
            {one.name}
          </button>
        </Popover>
      ))}
      <Popover
        trigger="click"
        open={naming}
        onOpenChange={setNaming}
        content={
          <span className={styles.keptName}>
            <Input
              size="small"
              autoFocus
              aria-label="Name of the settings"
              placeholder="Gentle, strong…"
              value={name}
              onChange={(event) => setName(event.target.value)}
              onPressEnter={save}
            />
            <Button size="small" type="primary" disabled={!name.trim()} onClick={save}>
              Keep them
            </Button>
          </span>
        }
      >
        <button className="link">save these…</button>
      </Popover>
    </p>
  );
}
