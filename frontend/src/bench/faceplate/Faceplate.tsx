import { Button, Switch } from "antd";
import { useEffect, useEffectEvent, useState } from "react";
import type { Control, DraftView } from "../../api/client";
import { isLink, settingsOf } from "../../api/values";
import { ControlList } from "../../controls/ControlList";
import { ControlRow } from "../../controls/ControlRow";
import { groupsOf } from "../../controls/faceplate";
import { MenuButton } from "../../shell/MenuButton";
import { useBench } from "../store";
import type { ChangeDraft } from "../useDraft";
import { ControlEdit } from "./ControlEdit";
import styles from "./Faceplate.module.css";

interface Props {
  draft: DraftView;
  frame: number;
  length: number;
  change: ChangeDraft;
}

/** The macro's controls as the editor will see them; "Try it" shows exactly that. */
export function Faceplate({ draft, frame, length, change }: Props) {
  const [trying, setTrying] = useState(false);
  // Kept here and not in the cards: React mounts a card again when its control changes its group.
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const turn = (slug: string) => {
    const next = new Set(open);
    if (!next.delete(slug)) next.add(slug);
    setOpen(next);
  };
  const controls = draft.effect.controls ?? [];
  const attempt = useBench((state) => state.attempt);
  const put = ({ slug }: Control, value: unknown) => ({
    do: "set-control" as const,
    slug,
    default: value,
  });
  // What is set while trying, which leaves the draft as it is.
  const [tried, setTried] = useState<Record<string, unknown>>({});
  const changes = controls
    .filter((one) => one.slug in tried)
    .map((one) => put(one, tried[one.slug]));
  const attemptAll = (control: Control, value: unknown) =>
    attempt({
      do: "several",
      changes: [...changes.filter((one) => one.slug !== control.slug), put(control, value)],
    });
  const leave = () => {
    setTried({});
    attempt(null);
  };
  const atTrial = useEffectEvent(() => trying && attempt(null));
  useEffect(() => () => void atTrial(), []);
  const groups = groupsOf(controls);
  const names = groups.map((one) => one.name).filter(Boolean);
  // Groups stand together, so a control moves among those of its own group.
  const place = (control: Control) => controls.indexOf(control);
  return (
    <div className={styles.faceplate}>
      <div className={styles.bar}>
        {controls.length > 0 && (
          <label className={styles.tryIt}>
            <Switch
              size="small"
              checked={trying}
              onChange={(on) => {
                setTrying(on);
                if (!on) leave();
              }}
              aria-label="Try it"
            />{" "}
            Try it as the editor will
          </label>
        )}
        {!trying && <AddControl draft={draft} change={change} />}
        {trying && changes.length > 0 && (
          <Button
            size="small"
            onClick={() => {
              const said = "Defaults set from a trial";
              void change({ do: "several", changes, said }).then(leave);
            }}
          >
            Make these the defaults
          </Button>
        )}
      </div>
      {!controls.length && (
        <p className="soft">
          Nothing is exposed yet. Choose “Expose” in a value’s menu, or press E over it. A control
          of your own can drive several values.
        </p>
      )}
      {trying ? (
        <div className={styles.tried}>
          <ControlList
            controls={controls}
            settings={settingsOf(controls, tried)}
            onTry={attemptAll}
            onCommit={(control, value) => {
              setTried({ ...tried, [control.slug]: value });
              attemptAll(control, value);
            }}
          />
        </div>
      ) : (
        groups.map(({ name, controls: some }) => (
          <section key={name} aria-label={name || "No group"}>
            {name && <h3 className={styles.group}>{name}</h3>}
            <div className={styles.controls}>
              {some.map((control, at) => (
                <ControlEdit
                  key={control.slug}
                  {...{ draft, frame, length, control, change, groups: names }}
                  open={open.has(control.slug)}
                  onOpen={() => turn(control.slug)}
                  above={at > 0 ? place(some[at - 1]!) : null}
                  below={at < some.length - 1 ? place(some[at + 1]!) : null}
                >
                  <ControlRow
                    control={control}
                    value={control.default}
                    onTry={(value) => attempt(put(control, value))}
                    onCommit={(value) => change(put(control, value))}
                  />
                </ControlEdit>
              ))}
            </div>
          </section>
        ))
      )}
    </div>
  );
}

const NEW = [
  { key: "number", label: "A number", type: "number", name: "Amount" },
  { key: "toggle", label: "A toggle", type: "toggle", name: "Switch" },
  { key: "choice", label: "A choice with words of its own", type: "choice", name: "Choice" },
  { key: "hidden", label: "A hidden number", type: "number", name: "Number" },
] as const;

/** Adds a control that drives nothing yet. */
function AddControl({ draft, change }: { draft: DraftView; change: ChangeDraft }) {
  const way = !isLink(draft.effect.backwards);
  const items = [
    ...NEW.map(({ key, label }) => ({ key, label })),
    ...(way ? [{ key: "backwards", label: "Let the editor play it backwards" }] : []),
  ];
  const add = (key: string) => {
    const one = NEW.find((each) => each.key === key);
    if (!one) return void change({ do: "expose-backwards" });
    void change({
      do: "add-control",
      label: one.name,
      type: one.type,
      ...(one.type === "choice" ? { options: ["First", "Second"] } : {}),
      ...(key === "hidden" ? { hidden: true } : {}),
    });
  };
  return (
    <MenuButton menu={{ items, onClick: ({ key }) => add(key) }}>
      <Button size="small">Add a control ▾</Button>
    </MenuButton>
  );
}
