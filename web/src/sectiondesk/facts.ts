/** The facts of a section and its sample, asked of the service together; they are kept for as long as the section is as it was. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api, type Section, type SectionFacts } from "../api/client";
import { bodyOf } from "./library/shop";

/** A sample piece as binary glTF, and the facts that go along with it. */
interface Looked {
  sample: ArrayBuffer;
  facts: SectionFacts;
}

export function useLooked(section: Section) {
  const body = bodyOf(section);
  return useQuery({
    queryKey: ["looked", body],
    queryFn: async (): Promise<Looked> => {
      const sample = await answer<ArrayBuffer>(api.POST("/api/sections/sample", { body, parseAs: "arrayBuffer" }));
      return { sample, facts: factsIn(sample) };
    },
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
    // A sample is some hundred kilobytes, and there is one for every step of a drag.
    gcTime: 30_000,
    structuralSharing: false,
    retry: 1,
  });
}

/** The facts in the extras of the scene: the first chunk of binary glTF is its JSON (glTF 2.0, section 4.4.3.1). */
function factsIn(glb: ArrayBuffer): SectionFacts {
  const size = new DataView(glb).getUint32(12, true);
  return JSON.parse(new TextDecoder().decode(new Uint8Array(glb, 20, size))).scenes[0].extras.facts;
}
