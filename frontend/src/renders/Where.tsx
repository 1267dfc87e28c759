import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Checkbox, Input, Segmented } from "antd";
import { useState } from "react";
import { asked } from "../api/asked";
import { $api, type ClusterView } from "../api/client";
import styles from "./Where.module.css";
import { Workers } from "./Workers";

const LOOK = 1000;

/** Where new renders are made: on this machine, or by the workers of a scheduler. */
export function Where() {
  const found = useQuery({
    ...asked.cluster(),
    refetchInterval: ({ state }) => (state.data?.used ? LOOK : false),
  });
  return found.data ? <Settings key={found.data.address} seen={found.data} /> : null;
}

function Settings({ seen }: { seen: ClusterView }) {
  const client = useQueryClient();
  const [there, setThere] = useState(seen.used);
  const [address, setAddress] = useState(seen.address);
  const [reach, setReach] = useState(seen.reach);
  const set = $api.useMutation("post", "/api/cluster", {
    meta: { told: true },
    onSuccess: (after: ClusterView) => client.setQueryData(asked.cluster().queryKey, after),
  });
  const change = (more: Partial<ClusterView>) => {
    const { used, or_here } = seen;
    set.mutate({ body: { address, reach, used, or_here, ...more } });
  };
  const changed = address !== seen.address || reach !== seen.reach || !seen.used;
  return (
    <section className={styles.where} aria-label="Where renders are made">
      <div className={styles.row}>
        <span id="made-on">New renders are made on</span>
        <Segmented<"here" | "there">
          aria-labelledby="made-on"
          value={there ? "there" : "here"}
          options={[
            { value: "here", label: "This machine" },
            { value: "there", label: "Other machines" },
          ]}
          onChange={(value) => {
            setThere(value === "there");
            if (value === "here" ? seen.used : seen.address) change({ used: value === "there" });
          }}
        />
        {there && (
          <Checkbox
            checked={seen.or_here}
            disabled={!seen.used}
            onChange={({ target }) => change({ or_here: target.checked })}
          >
            If they cannot, make it here
          </Checkbox>
        )}
      </div>
      {there && !seen.installed && (
        <p className="bad">
          This machine has no Dask. Install it beside Pale Static with “pip install
          'pale-static[cluster]'”, and start Pale Static again.
        </p>
      )}
      {there && (
        <form
          className={styles.row}
          onSubmit={(event) => {
            event.preventDefault();
            change({ used: true });
          }}
        >
          <label className={styles.field}>
            Scheduler
            <Input
              value={address}
              placeholder="tcp://127.0.0.1:8786"
              onChange={({ target }) => setAddress(target.value)}
            />
          </label>
          <label className={styles.field}>
            Workers reach this machine at
            <Input
              value={reach}
              placeholder="found by itself"
              onChange={({ target }) => setReach(target.value)}
            />
          </label>
          <Button htmlType="submit" type="primary" disabled={!changed} loading={set.isPending}>
            Use this scheduler
          </Button>
        </form>
      )}
      {there && set.error && (
        <p className="bad" role="alert">
          {set.error.detail}
        </p>
      )}
      {there && seen.used && !changed && <Workers seen={seen} />}
    </section>
  );
}
