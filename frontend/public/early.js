// What the Bench needs is asked for while the page's scripts are still being read.
{
  const [place, id] = location.pathname.split("/").filter(Boolean);
  const ask = (path) => fetch(`/api${path}`).catch(() => undefined);
  const asked = place === "bench" && id ? [`/effects/${id}`, "/steps"] : [];
  window.early = new Map(asked.map((path) => [path, ask(path)]));
  // And the monitor's first picture, at the address that src/bench/frames.ts will ask for.
  void window.early.get(asked[0])?.then(async (answer) => {
    if (!answer?.ok) return;
    const { revision, frames } = await answer.clone().json();
    const size = localStorage.getItem("pale-static-preview") ?? "width=960&height=540";
    await ask(`${asked[0]}/${revision}/frame.jpg?frame=0&length=${frames}&${size}`);
  });
  // The room is dim from the first moment on where it was left dim.
  const theme = localStorage.getItem("pale-static-theme");
  document.documentElement.dataset.theme = theme ? JSON.parse(theme).state.name : "pale";
}
