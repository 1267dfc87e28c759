import { lazy, useState, type ComponentType } from "react";

// Each place comes when it is gone to, so that none waits for the others.
const LOADS = {
  bench: () => import("./bench/BenchStart").then((one) => one.BenchStart),
  "bench/": () => import("./bench/Bench").then((one) => one.Bench),
  materials: () => import("./materials/Materials").then((one) => one.Materials),
  reel: () => import("./reel/ReelStart").then((one) => one.ReelStart),
  "reel/": () => import("./reel/Reel").then((one) => one.Reel),
  renders: () => import("./renders/Renders").then((one) => one.Renders),
  shelf: () => import("./shelf/Shelf").then((one) => one.Shelf),
  "shelf/": () => import("./shelf/MacroOpen").then((one) => one.MacroOpen),
} satisfies Record<string, () => Promise<ComponentType>>;

type Name = keyof typeof LOADS;

const loaded = new Map<string, ComponentType>();

async function load(name: Name): Promise<{ default: ComponentType }> {
  const found = await LOADS[name]();
  loaded.set(name, found);
  return { default: found };
}

/** Loads the place of an address, and tells what the address names there. */
export async function loadAt(address: string): Promise<{ place: string; opened?: string }> {
  const [first, opened] = address.split("/").filter(Boolean);
  const place = `${first ?? "shelf"}${opened ? "/" : ""}`;
  if (place in LOADS) await load(place as Name);
  return { place, ...(opened ? { opened } : {}) };
}

/** In the stead of a place whose scripts could not be had. */
function Absent() {
  return (
    <main className="page">
      <p className="bad" role="alert">
        This place could not be loaded: Pale Static does not answer. Start it again where it ran;
        what was accepted before is saved.{" "}
        <button className="link" onClick={() => location.reload()}>
          Load the page again
        </button>
      </p>
    </main>
  );
}

/** The component of a place; one that is loaded already shows at once. */
export function placed(name: Name): ComponentType {
  const Later = lazy(() => load(name).catch(() => ({ default: Absent })));
  return function Placed() {
    const [Shown] = useState(() => loaded.get(name) ?? Later);
    return <Shown />;
  };
}
