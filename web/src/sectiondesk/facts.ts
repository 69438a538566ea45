/** The facts of a section, asked of the service; they are kept for as long as the section is as it was. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api, type Section, type SectionFacts } from "../api/client";
import { bodyOf } from "./shop";

export function useFacts(section: Section) {
  const body = bodyOf(section);
  return useQuery({
    queryKey: ["facts", body],
    queryFn: () => answer<SectionFacts>(api.POST("/api/sections/facts", { body })),
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
    retry: 1,
  });
}
