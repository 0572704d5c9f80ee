import { queryOptions } from "@tanstack/react-query";

import { call, type ReportIn } from "../../api/client";

/** What would be handed out; asked anew whenever the machine changes, as every question about it. */
export const draftQuery = (machineId: string, wish: ReportIn) =>
  queryOptions({
    queryKey: [
      "post",
      "/api/machines/{machine_id}/report-draft",
      { params: { path: { machine_id: machineId } }, wish },
    ],
    queryFn: () => call("post", "/api/machines/{machine_id}/report-draft", { machine_id: machineId }, wish),
  });

export const madeQuery = (machineId: string, reportId: string) =>
  queryOptions({
    queryKey: ["report made", machineId, reportId],
    queryFn: () =>
      call("get", "/api/machines/{machine_id}/reports/{report_id}", {
        machine_id: machineId,
        report_id: reportId,
      }),
    staleTime: Infinity,
  });
