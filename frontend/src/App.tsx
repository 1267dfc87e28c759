import { App as Messages, ConfigProvider } from "antd";
import { Suspense, useEffect } from "react";
import { BrowserRouter, Navigate, Route, Routes } from "react-router-dom";
import { placed } from "./places";
import { TopBar } from "./shell/TopBar";
import { themeConfig } from "./theme/antd";
import { useTheme } from "./theme/room";

const Bench = placed("bench/");
const BenchStart = placed("bench");
const Materials = placed("materials");
const Reel = placed("reel/");
const ReelStart = placed("reel");
const Renders = placed("renders");
const MacroOpen = placed("shelf/");
const Shelf = placed("shelf");

const motion = !matchMedia("(prefers-reduced-motion: reduce)").matches;

export function App() {
  const { name } = useTheme();
  useEffect(() => {
    document.documentElement.dataset["theme"] = name;
  }, [name]);
  return (
    <BrowserRouter>
      <ConfigProvider theme={themeConfig(name, motion)}>
        <Messages message={{ maxCount: 3, duration: 6 }} style={{ height: "100%" }}>
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
        </Messages>
      </ConfigProvider>
    </BrowserRouter>
  );
}
