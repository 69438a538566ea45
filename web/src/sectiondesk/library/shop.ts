/** The shop's own library of sections, as the service keeps it for all jobs. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api, type KeptSection, type KeptVersion, type Section, type SectionBody } from "../../api/client";

const KEY = ["shop"];

export function useShop() {
  return useQuery({ queryKey: KEY, queryFn: () => answer<KeptSection[]>(api.GET("/api/shop")), staleTime: 10_000 });
}

export function useVersions(id: string | undefined) {
  return useQuery({
    queryKey: ["shop", id, "versions"],
    queryFn: () =>
      answer<KeptVersion[]>(api.GET("/api/shop/{id}/versions", { params: { path: { id: id as string } } })),
    enabled: id !== undefined,
    staleTime: 10_000,
  });
}

/** What a section of a job is, without what is the job's own of it. */
export function bodyOf(section: Section): SectionBody {
  const { id: _, shop: __, member: ___, ...body } = section;
  return { ...body, group: "" } as SectionBody;
}

/** What can be done to the shop's library; each raises what the service says against it. */
export function useShopActs() {
  const client = useQueryClient();
  const done = async <T>(sent: Promise<T>) => {
    const found = await sent;
    await client.invalidateQueries({ queryKey: KEY });
    return found;
  };
  return {
    keep: (section: SectionBody, folder: string) =>
      done(answer<KeptSection>(api.POST("/api/shop", { body: { section, folder, said: "" } }))),
    keepVersion: (id: string, base: number, section: SectionBody, said: string) =>
      done(
        answer<KeptSection>(
          api.POST("/api/shop/{id}/versions", { params: { path: { id } }, body: { base, section, said } }),
        ),
      ),
    change: (id: string, change: { folder?: string; removed?: boolean }) =>
      done(answer<undefined>(api.PATCH("/api/shop/{id}", { params: { path: { id } }, body: change }))),
    takeIn: (file: File, folder: string) => {
      const form = new FormData();
      form.append("file", file);
      return done(
        answer<{ ids: string[] }>(
          api.POST("/api/shop/files", {
            params: { query: { folder } },
            body: form as never,
            bodySerializer: (body) => body as never,
          }),
        ),
      );
    },
  };
}

/** Save a section as a file: all that is said of it, or its outline at 1:1. */
export async function saveAsFile(section: Section, kind: "json" | "dxf" | "svg") {
  const sent = await api.POST("/api/sections/file/{kind}", {
    params: { path: { kind } },
    body: bodyOf(section),
    parseAs: "blob",
  });
  const blob = await answer<Blob>(Promise.resolve(sent) as never);
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = `${section.name}.${kind === "json" ? "section.json" : kind}`;
  link.click();
  URL.revokeObjectURL(link.href);
}
