import { useQueryClient } from "@tanstack/react-query";
import { App as Messages, ConfigProvider } from "antd";
import { Suspense, useEffect } from "react";
import { BrowserRouter, Navigate, Route, Routes } from "react-router-dom";
import { FIRST, PLACES, ROUTES } from "./places";
import { TopBar } from "./shell/TopBar";
import { themeConfig } from "./theme/antd";
import { useTheme } from "./theme/room";

/** Shows the fault of a failed mutation, unless its caller shows it. */
function Faults() {
  const { message } = Messages.useApp();
  const client = useQueryClient();
  useEffect(() => {
    client.getMutationCache().config.onError = (error, _asked, _made, mutation) => {
      if (!mutation.meta?.["told"]) void message.error(error.message);
    };
  }, [client, message]);
  return null;
}

const motion = !matchMedia("(prefers-reduced-motion: reduce)").matches;

export function App() {
  const { name } = useTheme();
  useEffect(() => {
    document.documentElement.dataset["theme"] = name;
  }, [name]);
  return (
    <BrowserRouter>
      <ConfigProvider theme={themeConfig(name, motion)} wave={{ disabled: true }}>
        <Messages message={{ maxCount: 3, duration: 6 }} style={{ height: "100%" }}>
          <Faults />
          <div className="shell">
            <TopBar places={PLACES.map((one) => one.name)} />
            <Suspense fallback={<main className="page" aria-busy="true" />}>
              <Routes>
                {ROUTES.map(({ path, Shown }) => (
                  <Route key={path} path={path} element={<Shown />} />
                ))}
                <Route path="*" element={<Navigate to={FIRST} replace />} />
              </Routes>
            </Suspense>
          </div>
        </Messages>
      </ConfigProvider>
    </BrowserRouter>
  );
}
