import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { api, inWorkspace, take } from "../api";
import { keepZone } from "../ui/words";

/** The workspace of the page, and the day it is there. */
export function useWorkspace() {
  const { workspace } = useParams({ from: "/w/$workspace" });
  const found = useQuery({
    queryKey: [workspace, "workspace"],
    queryFn: () => take(api.GET("/api/v1/workspaces/{workspace}", inWorkspace(workspace))),
    staleTime: 60_000,
  });
  if (found.data) keepZone(found.data.timeZone);
  return {
    workspace,
    /** Whether whoever is signed in holds a duty here; what they may not do is not offered. */
    may: (duty: string) => found.data?.duties?.includes(duty) ?? false,
    view: found.data,
    fault: found.error,
    today: found.data?.today ?? new Date().toISOString().slice(0, 10),
  };
}
