import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router-dom";
import { asked } from "../api/asked";
import { $api, query } from "../api/client";
import { settingsOf } from "../api/values";
import { ControlList } from "../controls/ControlList";
import type { Pixels } from "../player/levels";
import { Screen, type ScreenHandle } from "../player/Screen";
import { rateOf, timecode } from "../player/timecode";
import { OpenHead } from "../shell/OpenHead";
import { useKeys } from "../shell/useKeys";
import { Clips } from "./Clips";
import { HandOver } from "./HandOver";
import styles from "./MacroOpen.module.css";

const FULL: Pixels = { width: 960, height: 540 };

/** An open macro: its faceplate to try, its versions and notes, and its actions. */
export function MacroOpen() {
  const slug = useParams()["id"] ?? "";
  const found = useQuery(asked.macro(slug));
  const navigate = useNavigate();
  const copying = $api.useMutation("post", "/api/effects", {
    onSuccess: (draft) => void navigate(`/bench/${draft.id}`),
  });
  const [frame, setFrame] = useState<number>();
  const [playing, setPlaying] = useState(false);
  const [set, setSet] = useState<Record<string, unknown>>({});
  const [clips, setClips] = useState<Record<string, string>>({});
  const brought = JSON.stringify(clips);
  const screen = useRef<ScreenHandle>(null);
  const card = found.data?.card;
  const rate = rateOf(card?.rate);
  const settings = settingsOf(card?.controls ?? [], set);
  const changed = JSON.stringify(set);
  const urlOf = (at: number, size: Pixels) =>
    card
      ? `/api/macros/${slug}/${card.version}/frame.jpg?${query({
          frame: at,
          length: card.frames,
          ...size,
          settings: changed === "{}" ? "" : changed,
          clips: brought === "{}" ? "" : brought,
        })}`
      : "";
  useKeys("shelf", { toggle: () => screen.current?.toggle() });
  if (found.error) return <main className="page bad">{found.error.detail}</main>;
  if (!card) return <main className="page soft">Opening…</main>;
  const at = frame ?? Math.floor(card.frames * 0.48);
  const put = (name: string, value: unknown) => setSet((old) => ({ ...old, [name]: value }));
  const copy = () => copying.mutate({ body: { macro: slug, version: card.version } });
  return (
    <main className={styles.macroOpen}>
      <OpenHead>
        <span className="name">
          <Link to="/shelf">Shelf</Link> · <b>{card.name}</b> {card.kind} · version {card.version}
        </span>
      </OpenHead>
      <section>
        <div className="ground">
          <Screen
            ref={screen}
            urlOf={urlOf}
            full={FULL}
            frame={at}
            first={0}
            end={card.frames}
            rate={rate}
            loop
            aspect={16 / 9}
            label={`${card.name}, frame ${at}`}
            onFrame={setFrame}
            onState={(state) => setPlaying(state.playing)}
          />
        </div>
        <div className={styles.scrub}>
          <Button onClick={() => screen.current?.toggle()}>{playing ? "Stop" : "Play"}</Button>
          <span className="mono">{timecode(at, rate)}</span>
          <input
            type="range"
            aria-label="Frame"
            min={0}
            max={card.frames - 1}
            value={at}
            style={
              { "--part": `${(at / Math.max(1, card.frames - 1)) * 100}%` } as React.CSSProperties
            }
            onChange={(event) => {
              screen.current?.stop();
              setFrame(Number(event.target.value));
            }}
          />
        </div>
        <div className={styles.macroBelow}>
          <Clips slots={found.data?.slots ?? []} chosen={clips} onChoose={setClips} />
          {(found.data?.notes ?? []).map((note) => (
            <p key={note} className="note">
              {note}
            </p>
          ))}
        </div>
      </section>
      <section className={styles.macroSide}>
        <h2>{card.name}</h2>
        <p className="soft">{card.sentence}</p>
        <div className={styles.actions}>
          <Button
            type="primary"
            onClick={() => void navigate(`/reel?use=${slug}`, { state: { settings } })}
          >
            Use on the reel
          </Button>
          <Button onClick={() => void copy()}>Open a copy on the bench</Button>
          <HandOver card={card} settings={settings} />
        </div>
        <ControlList
          controls={card.controls}
          settings={settings}
          onTry={({ slug }, value) => put(slug, value)}
          onCommit={({ slug }, value) => put(slug, value)}
        />
        {!card.controls.length && (
          <p className="soft">It has no controls: only its length is set.</p>
        )}
      </section>
      <section className={styles.macroSide} aria-label="Versions">
        <h2>Versions</h2>
        {(found.data?.versions ?? []).map((one) => (
          <div key={one.version} className={styles.version}>
            <b>Version {one.version}</b>{" "}
            <span className="soft">
              {new Date(one.published).toLocaleDateString("en-GB")}
              {one.author && ` by ${one.author}`}
              {one.licence && ` · ${one.licence}`}
            </span>
            <p>{one.changes}</p>
            {one.faceplate_changes.map((sentence) => (
              <p key={sentence} className="soft">
                {sentence}
              </p>
            ))}
          </div>
        ))}
      </section>
    </main>
  );
}
