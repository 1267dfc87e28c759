// What a place needs is asked for while the page's scripts are still being read.
{
  const { dataset } = document.currentScript;
  const parts = location.pathname.split("/").filter(Boolean);
  const place = `${parts[0] ?? "shelf"}${parts.length > 1 ? "/" : ""}`;
  for (const href of JSON.parse(dataset.places)[place] ?? []) {
    document.head.append(
      Object.assign(document.createElement("link"), { rel: "modulepreload", href }),
    );
  }
  const ask = (path) => fetch(`/api${path}`).catch(() => undefined);
  const asked = { "bench/": [`/effects/${parts[1]}`, "/steps"], shelf: ["/macros"] }[place] ?? [];
  window.early = new Map(asked.map((path) => [path, ask(path)]));
  if (place === "bench/") {
    // And the monitor's first picture, at the address that src/bench/frames.ts will ask for.
    void window.early.get(asked[0]).then(async (answer) => {
      if (!answer?.ok) return;
      const { revision, frames } = await answer.clone().json();
      const size = localStorage.getItem("pale-static-preview") ?? "width=960&height=540";
      await ask(`${asked[0]}/${revision}/frame.jpg?frame=0&length=${frames}&${size}`);
    });
  }
}
