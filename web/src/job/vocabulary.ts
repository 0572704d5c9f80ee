import { queryOptions, useSuspenseQuery } from "@tanstack/react-query";

import { api, call, type Job, type Template, type Vocabulary, withTuples } from "../api/client";

/** Words that only a new version of the server changes. */
export const vocabularyQuery = api.queryOptions("get", "/api/vocabulary", {}, { staleTime: Infinity });

export const templatesQuery = api.queryOptions(
  "get",
  "/api/templates",
  {},
  { select: withTuples<Template[]> },
);

export const jobQuery = (id: string) =>
  api.queryOptions("get", "/api/machines/{machine_id}/job", { params: { path: { machine_id: id } } });

/** The same as it was when a sitting was begun: what it says of scatter is not asked for anew with each reading. */
export const jobAtSittingQuery = (id: string, sitting: string) =>
  queryOptions({
    queryKey: ["job at", sitting],
    queryFn: () => call("get", "/api/machines/{machine_id}/job", { machine_id: id }),
    staleTime: Infinity,
  });

export const useVocabulary = (): Vocabulary => useSuspenseQuery(vocabularyQuery).data;

export const useTemplates = (): Template[] => useSuspenseQuery(templatesQuery).data;

/** What the server makes of the job as it stands. */
export const useJob = (id: string): Job => useSuspenseQuery(jobQuery(id)).data;
