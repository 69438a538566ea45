/** The libraries that sections are picked from: the starting one, the shop's own, a supplier's catalogue. */
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useEffect, useMemo } from "react";
import { answer, api, type LibraryEntry, type SupplierPage } from "../../api/client";
import { count, formatLength } from "../../ui/figures";
import { when } from "../../ui/when";
import { useUnits } from "../../window/job";
import { useShop } from "./shop";

/** A section of one of the libraries; of the shop's with its version, of a supplier's with its price. */
export type Shelved = LibraryEntry & { shop?: { id: string; version: number }; folder?: string };
export type Which = "starting" | "shop" | "supplier";

/** The pages of the supplier's catalogue that have come; the next is asked for when the last has. */
function useCatalogue(on: boolean) {
  return useInfiniteQuery({
    queryKey: ["supplier", "catalogue"],
    queryFn: ({ pageParam }) =>
      answer<SupplierPage>(api.GET("/api/supplier/catalogue", { params: { query: { page: pageParam } } })),
    initialPageParam: 1,
    getNextPageParam: (last) => (last.page < last.pages ? last.page + 1 : undefined),
    enabled: on,
    staleTime: 60_000,
    retry: 0,
  });
}

/** The sections of a library. */
export function useShelf(which: Which) {
  const catalogue = useCatalogue(which === "supplier");
  const starting = useQuery({
    queryKey: ["library"],
    queryFn: () => answer<LibraryEntry[]>(api.GET("/api/library")),
    staleTime: Number.POSITIVE_INFINITY,
    enabled: which === "starting",
  });
  const shop = useShop();
  const { error, refetch } = { starting, shop, supplier: catalogue }[which];
  const units = useUnits();
  const { hasNextPage, isFetching, fetchNextPage } = catalogue;
  useEffect(() => {
    if (which === "supplier" && hasNextPage && !isFetching) void fetchNextPage();
  }, [which, hasNextPage, isFetching, fetchNextPage]);
  const pages = catalogue.data?.pages;
  const data = useMemo(
    (): Shelved[] | undefined =>
      which === "starting"
        ? starting.data
        : which === "supplier"
          ? pages?.flatMap((page) =>
              page.goods.map(({ path, section, ...goods }) => ({
                key: goods.code,
                family: page.supplier,
                standard: `${goods.code} · ${goods.price.toFixed(2)} ${goods.currency} a metre · ${goods.lengths.map((mm) => formatLength(mm, units)).join(", ")} · ${count(goods.days, "day")}`,
                section: { ...section, stock: { supplier: page.supplier, ...goods } } as LibraryEntry["section"],
                path,
              })),
            )
          : shop.data?.map(({ id, folder, version }) => ({
              key: id,
              family: folder || "In no folder",
              standard: `version ${version.number}, ${version.author ?? "somebody"}, ${when(version.made_at)}`,
              section: version.section,
              path: version.path,
              shop: { id, version: version.number },
              folder,
            })),
    [which, starting.data, pages, shop.data, units],
  );
  const late = which === "supplier" ? pages?.find((page) => page.trouble) : undefined;
  return { data, error, refetch, late };
}
