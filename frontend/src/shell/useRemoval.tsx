import { App } from "antd";

interface Acting<Params> {
  mutate: (asked: { params: Params }, then?: { onSuccess?: () => void }) => void;
}

/** Removes something from a list, and offers to put it back. */
export function useRemoval<Params>(away: Acting<Params>, restore: Acting<Params>) {
  const { message } = App.useApp();
  return (params: Params, said: string) => {
    const offer = () =>
      void message.info(
        <>
          {said}{" "}
          <button className="link" onClick={() => restore.mutate({ params })}>
            Put it back
          </button>
        </>,
      );
    away.mutate({ params }, { onSuccess: offer });
  };
}
