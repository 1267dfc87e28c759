// Requests the Bench's data while the browser still reads the page's scripts.
{
  const [place, id] = location.pathname.split("/").filter(Boolean);
  window.early = new Map();
  const ask = (address) => {
    const answer = fetch(address).catch(() => undefined);
    window.early.set(address, answer);
    return answer;
  };
  if (place === "bench" && id) {
    const draft = `/api/effects/${id}`;
    ask("/api/steps");
    // And the monitor's first picture, at the address that src/bench/frames.ts will request.
    void ask(draft).then(async (answer) => {
      if (!answer?.ok) return;
      const { revision, since, effect, frames } = await answer.clone().json();
      const out = effect.lanes.at(-1);
      const from = since[`${out.id}.${out.steps?.at(-1)?.id}`] ?? revision;
      const size = localStorage.getItem("pale-static-preview") ?? "width=960&height=540";
      ask(`${draft}/${from}/frame.jpg?frame=0&length=${frames}&${size}&costs=true`);
    });
  }
  // A dim theme applies from the first moment.
  const theme = localStorage.getItem("pale-static-theme");
  document.documentElement.dataset.theme = (theme && JSON.parse(theme).state?.name) || "pale";
}
