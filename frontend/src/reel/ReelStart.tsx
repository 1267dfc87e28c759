import { useQuery } from "@tanstack/react-query";
import { App, Button } from "antd";
import { Link, Navigate, useNavigate, useSearchParams } from "react-router-dom";
import { api } from "../api/client";
import { Picture } from "../player/Picture";

/** Choose an edit. With one edit only, and a macro to use, it opens at once. */
export function ReelStart() {
  const found = useQuery({ queryKey: ["reels"], queryFn: api.reels });
  const navigate = useNavigate();
  const [params] = useSearchParams();
  const { message } = App.useApp();
  const use = params.get("use");
  const reels = found.data?.reels ?? [];
  const after = use ? `?use=${use}` : "";
  if (use && reels.length === 1) return <Navigate to={`/reel/${reels[0]!.id}${after}`} replace />;
  const start = async () => {
    try {
      const made = await api.startReel({ name: `Change ${reels.length + 1}` });
      void navigate(`/reel/${made.id}${after}`);
    } catch (error) {
      void message.error((error as Error).message);
    }
  };
  return (
    <main className="page">
      <div className="page-head">
        <h1>{use ? "On which edit?" : "Edits"}</h1>
        <Button type="primary" onClick={() => void start()}>
          New edit
        </Button>
      </div>
      {found.error && <p className="bad">{found.error.message}</p>}
      {found.data && !reels.length && (
        <p className="empty">No edits yet. Start one, then put shots on it from your materials.</p>
      )}
      <div className="cards">
        {reels.map((reel) => (
          <article className="card" key={reel.id}>
            <Link to={`/reel/${reel.id}${after}`}>
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
