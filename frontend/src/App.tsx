import { App as Messages, ConfigProvider } from "antd";
import { lazy, Suspense, useEffect } from "react";
import { BrowserRouter, Navigate, Route, Routes } from "react-router-dom";
import { TopBar } from "./shell/TopBar";
import { themeConfig, useTheme } from "./theme/antd";

// Each place comes when it is gone to, so that none waits for the others.
const Bench = lazy(() => import("./bench/Bench").then((one) => ({ default: one.Bench })));
const BenchStart = lazy(() =>
  import("./bench/BenchStart").then((one) => ({ default: one.BenchStart })),
);
const Materials = lazy(() =>
  import("./materials/Materials").then((one) => ({ default: one.Materials })),
);
const Reel = lazy(() => import("./reel/Reel").then((one) => ({ default: one.Reel })));
const ReelStart = lazy(() =>
  import("./reel/ReelStart").then((one) => ({ default: one.ReelStart })),
);
const Renders = lazy(() => import("./renders/Renders").then((one) => ({ default: one.Renders })));
const MacroOpen = lazy(() =>
  import("./shelf/MacroOpen").then((one) => ({ default: one.MacroOpen })),
);
const Shelf = lazy(() => import("./shelf/Shelf").then((one) => ({ default: one.Shelf })));

export function App() {
  const { name } = useTheme();
  useEffect(() => {
    document.documentElement.dataset["theme"] = name;
  }, [name]);
  return (
    <ConfigProvider theme={themeConfig(name)}>
      <Messages message={{ maxCount: 3, duration: 6 }} style={{ height: "100%" }}>
        <BrowserRouter>
          <div className="shell">
            <TopBar />
            <Suspense fallback={<main className="page" aria-busy="true" />}>
              <Routes>
                <Route path="/shelf" element={<Shelf />} />
                <Route path="/shelf/:slug" element={<MacroOpen />} />
                <Route path="/bench" element={<BenchStart />} />
                <Route path="/bench/:id" element={<Bench />} />
                <Route path="/reel" element={<ReelStart />} />
                <Route path="/reel/:id" element={<Reel />} />
                <Route path="/renders" element={<Renders />} />
                <Route path="/materials" element={<Materials />} />
                <Route path="*" element={<Navigate to="/shelf" replace />} />
              </Routes>
            </Suspense>
          </div>
        </BrowserRouter>
      </Messages>
    </ConfigProvider>
  );
}
