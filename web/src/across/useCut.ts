/** The job cut across a line, asked of the service: what stands there besides the runs that are drawn from their own figures. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useContext } from "react";
import { answer, api, type CutShown } from "../api/client";
import { JobId, useJobQuery } from "../window/job";

export function useCut(line: string | undefined, chainage: number) {
  const job = useContext(JobId);
  // What is only looked at changes nothing of what else stands there.
  const revision = useJobQuery(job).data?.revision;
  return useQuery({
    queryKey: ["across", job, revision, line, chainage],
    queryFn: () =>
      answer<CutShown>(
        api.POST("/api/jobs/{id}/cut-across", {
          params: { path: { id: job } },
          body: { line: line as string, chainage },
        }),
      ),
    enabled: line !== undefined,
    placeholderData: keepPreviousData,
    retry: 1,
  });
}
