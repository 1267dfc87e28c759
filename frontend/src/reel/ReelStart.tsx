import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { Link, Navigate, useLocation, useNavigate, useSearchParams } from "react-router-dom";
import { asked } from "../api/asked";
import { $api } from "../api/client";
import { Picture } from "../player/Picture";
import { useDrop } from "../shell/useDrop";
import { ArrivalDialog } from "./ArrivalDialog";

/** Choose an edit. With one edit only, and a macro to use, it opens at once. */
export function ReelStart() {
  const found = useQuery(asked.reels());
  const navigate = useNavigate();
  const [params] = useSearchParams();
  const { state } = useLocation() as { state: unknown };
  const use = params.get("use");
  const reels = found.data?.reels ?? [];
  const after = use ? `?use=${use}` : "";
  const starting = $api.useMutation("post", "/api/reels", {
    onSuccess: (made) => void navigate(`/reel/${made.id}${after}`, { state }),
  });
  const [coming, setComing] = useState<File>();
  const { over, zone, picker } = useDrop((files) => setComing(files[0]), ".otio,.edl");
  if (use && reels.length === 1)
    return <Navigate to={`/reel/${reels[0]!.id}${after}`} state={state} replace />;
  const start = () => starting.mutate({ body: { name: `Edit ${reels.length + 1}` } });
  return (
    <main className={`page ${over ? "drop-over" : ""}`} {...zone}>
      <div className="page-head">
        <h1>{use ? "On which edit?" : "Edits"}</h1>
        <Button className="right" onClick={picker}>
          Bring in an edit
        </Button>
        <Button type="primary" onClick={start}>
          New edit
        </Button>
      </div>
      {coming && <ArrivalDialog file={coming} after={after} onClose={() => setComing(undefined)} />}
      {found.error && <p className="bad">{found.error.detail}</p>}
      {found.data && !reels.length && (
        <p className="empty">
          No edits yet. Start one, then put shots on it from your materials; or drop an OTIO or EDL
          file of another system here.
        </p>
      )}
      <div className="cards">
        {reels.map((reel) => (
          <article className="card" key={reel.id}>
            <Link to={`/reel/${reel.id}${after}`} state={state}>
              {reel.frames > 0 ? (
                <Picture
                  url={`/api/reels/${reel.id}/${reel.revision}/frame.jpg?frame=${Math.floor(reel.frames / 2)}&width=320&height=180`}
                  alt={reel.name}
                />
              ) : (
                <span className="picture" style={{ aspectRatio: "16 / 9" }} />
              )}
              <b>{reel.name}</b>
            </Link>
            <p className="soft">
              {reel.shots} shots · {reel.frames} frames
            </p>
          </article>
        ))}
      </div>
    </main>
  );
}
