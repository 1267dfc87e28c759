import { lazy, useState, type ComponentType } from "react";

type Load = () => Promise<ComponentType>;

/** One of the five places: its list, and the view of one entry. */
interface Place {
  /** The first part of its address; its title in the bar is the same word. */
  name: string;
  list: Load;
  open?: Load;
}

/**
 * All places, in the order of the bar. The routes, the bar and the built pages come from here (see
 * vite.config.ts). Each place loads when it is opened, so that none waits for the others.
 */
export const PLACES: readonly Place[] = [
  {
    name: "shelf",
    list: () => import("./shelf/Shelf").then((one) => one.Shelf),
    open: () => import("./shelf/MacroOpen").then((one) => one.MacroOpen),
  },
  {
    name: "bench",
    list: () => import("./bench/BenchStart").then((one) => one.BenchStart),
    open: () => import("./bench/Bench").then((one) => one.Bench),
  },
  {
    name: "reel",
    list: () => import("./reel/ReelStart").then((one) => one.ReelStart),
    open: () => import("./reel/Reel").then((one) => one.Reel),
  },
  {
    name: "renders",
    list: () => import("./renders/Renders").then((one) => one.Renders),
  },
  {
    name: "materials",
    list: () => import("./materials/Materials").then((one) => one.Materials),
  },
];

/** The place of the bar's title, and of unknown addresses. */
export const FIRST = `/${PLACES[0]!.name}`;

const loaded = new Map<Load, ComponentType>();

async function take(load: Load): Promise<{ default: ComponentType }> {
  const found = await load();
  loaded.set(load, found);
  return { default: found };
}

/** Loads the place of an address, and gives the entry that the address names. */
export async function loadAt(address: string): Promise<{ place: string; opened?: string }> {
  const [name, opened] = address.split("/").filter(Boolean);
  const place = PLACES.find((one) => one.name === name) ?? PLACES[0]!;
  const load = opened ? place.open : place.list;
  if (load) await take(load);
  return { place: place.name, ...(opened ? { opened } : {}) };
}

/** Shown instead of a place whose scripts could not be loaded. */
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

/** The component of a place; a loaded one shows at once. */
function placed(load: Load): ComponentType {
  const Later = lazy(() => take(load).catch(() => ({ default: Absent })));
  return function Placed() {
    const [Shown] = useState(() => loaded.get(load) ?? Later);
    return <Shown />;
  };
}

/** Every address with its component. */
export const ROUTES = PLACES.flatMap(({ name, list, open }) => [
  { path: `/${name}`, Shown: placed(list) },
  ...(open ? [{ path: `/${name}/:id`, Shown: placed(open) }] : []),
]);
