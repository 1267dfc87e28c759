import { App as Messages, ConfigProvider } from "antd";
import { useEffect } from "react";
import { BrowserRouter, Navigate, Route, Routes } from "react-router-dom";
import { Bench } from "./bench/Bench";
import { BenchStart } from "./bench/BenchStart";
import { Materials } from "./materials/Materials";
import { Reel } from "./reel/Reel";
import { ReelStart } from "./reel/ReelStart";
import { Renders } from "./renders/Renders";
import { TopBar } from "./shell/TopBar";
import { MacroOpen } from "./shelf/MacroOpen";
import { Shelf } from "./shelf/Shelf";
import { themeConfig, useTheme } from "./theme/antd";

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
          </div>
        </BrowserRouter>
      </Messages>
    </ConfigProvider>
  );
}
