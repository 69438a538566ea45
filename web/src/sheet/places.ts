/** The places of rows and the meshes of runs, fetched by the hash of what they are made from. */
import { useQueries, useQuery } from "@tanstack/react-query";
import { useContext } from "react";
import type { RowFigures } from "../api/client";
import { Failed, problemOf } from "../api/client";
import { JobId } from "../window/job";

async function bytes(path: string): Promise<ArrayBuffer> {
  const got = await fetch(path);
  if (!got.ok) throw new Failed({ ...problemOf(new Error(`${path}: ${got.status}`)), status: got.status });
  return got.arrayBuffer();
}

const forEver = { staleTime: Number.POSITIVE_INFINITY, gcTime: 120_000, retry: 1 };

function placesQuery(job: string, key: string) {
  return {
    queryKey: ["places", key],
    queryFn: async () => new Float32Array(await bytes(`/api/jobs/${job}/places/${key}`)),
    ...forEver,
  };
}

export function useRowPlaces(rows: RowFigures[]): Map<string, Float32Array> {
  const job = useContext(JobId);
  const found = useQueries({ queries: rows.map((row) => placesQuery(job, row.key)) });
  return new Map(rows.flatMap((row, index) => (found[index]?.data ? [[row.id, found[index].data] as const] : [])));
}

export function useOneRowPlaces(row: RowFigures | undefined): Float32Array | undefined {
  const job = useContext(JobId);
  const key = row?.key ?? "";
  return useQuery({ ...placesQuery(job, key), enabled: Boolean(row) }).data;
}

export function meshQuery(job: string, key: string) {
  return { queryKey: ["mesh", key], queryFn: () => bytes(`/api/jobs/${job}/meshes/${key}.glb`), ...forEver };
}
