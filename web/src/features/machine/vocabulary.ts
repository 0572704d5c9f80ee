import { queryOptions, useSuspenseQuery } from "@tanstack/react-query";

import {
  readJob,
  readTemplates,
  readVocabulary,
  type Job,
  type Template,
  type Vocabulary,
} from "../../api/client";

/** Words that only a new version of the server changes. */
export const vocabularyQuery = queryOptions({
  queryKey: ["vocabulary"],
  queryFn: readVocabulary,
  staleTime: Infinity,
});

export const templatesQuery = queryOptions({ queryKey: ["templates"], queryFn: readTemplates });

export const jobQuery = (id: string) =>
  queryOptions({ queryKey: ["machine", id, "job"], queryFn: () => readJob(id) });

export const useVocabulary = (): Vocabulary => useSuspenseQuery(vocabularyQuery).data;

export const useTemplates = (): Template[] => useSuspenseQuery(templatesQuery).data;

/** What the server makes of the job as it stands. */
export const useJob = (id: string): Job => useSuspenseQuery(jobQuery(id)).data;
