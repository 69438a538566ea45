/** The places of rows and the meshes of runs, fetched by the hash of what they are made from. */
import { useQueries, useQuery } from "@tanstack/react-query";
import { useContext, useRef } from "react";
import type { RowFigures } from "../api/client";
import { Failed, problemOf } from "../api/client";
import { JobId } from "../window/job";

export async function fetchBytes(path: string): Promise<ArrayBuffer> {
  const got = await fetch(path);
  if (!got.ok) throw new Failed({ ...problemOf(new Error(`${path}: ${got.status}`)), status: got.status });
  return got.arrayBuffer();
}

export const keptForEver = { staleTime: Number.POSITIVE_INFINITY, gcTime: 120_000, retry: 1 };

function placesQuery(job: string, key: string) {
  return {
    queryKey: ["places", key],
    queryFn: async () => new Float32Array(await fetchBytes(`/api/jobs/${job}/places/${key}`)),
    ...keptForEver,
  };
}

export function useRowPlaces(rows: RowFigures[]): Map<string, Float32Array> {
  const job = useContext(JobId);
  const found = useQueries({ queries: rows.map((row) => placesQuery(job, row.key)) });
  return new Map(rows.flatMap((row, index) => (found[index]?.data ? [[row.id, found[index].data] as const] : [])));
}

/** The places of a row; while those that changed are on their way, as they were: what is dragged stays under the hand. */
export function useOneRowPlaces(row: RowFigures | undefined): Float32Array | undefined {
  const job = useContext(JobId);
  const key = row?.key ?? "";
  const last = useRef<{ row: string; places: Float32Array } | null>(null);
  const { data } = useQuery({ ...placesQuery(job, key), enabled: Boolean(row) });
  if (row && data) last.current = { row: row.id, places: data };
  return data ?? (last.current?.row === row?.id ? last.current?.places : undefined);
}

/**
 * The mesh of a run; `far` tells how far it is from what is looked at: what is near comes first. What is drawn alike (`like`)
 * is fetched once.
 */
export function meshQuery(job: string, key: string, far: number, like = key) {
  return { queryKey: ["mesh", like], queryFn: () => meshInTurn(job, key, far), ...keptForEver };
}

interface Wanted {
  job: string;
  key: string;
  far: number;
  take: (mesh: ArrayBuffer) => void;
  fail: (error: unknown) => void;
}

/** Meshes in one answer, and answers at once: two keep both ends busy and leave the browser's connections to others. */
const [TOGETHER, AT_ONCE] = [32, 2];
let wanted: Wanted[] = [];
let asking = 0;

function meshInTurn(job: string, key: string, far: number): Promise<ArrayBuffer> {
  return new Promise((take, fail) => {
    wanted.push({ job, key, far, take, fail });
    // All that one drawing of the view asks for goes together.
    setTimeout(askNext, 0);
  });
}

function askNext() {
  if (asking >= AT_ONCE || !wanted.length) return;
  wanted.sort((a, b) => a.far - b.far);
  const { job } = wanted[0] as Wanted;
  const now = wanted.filter((one) => one.job === job).slice(0, TOGETHER);
  wanted = wanted.filter((one) => !now.includes(one));
  asking++;
  void ask(job, now).finally(() => {
    asking--;
    askNext();
  });
  askNext();
}

async function ask(job: string, meshes: Wanted[]) {
  try {
    const [one] = meshes;
    if (one && meshes.length === 1) {
      one.take(await fetchBytes(`/api/jobs/${job}/meshes/${one.key}.glb`));
      return;
    }
    const path = `/api/jobs/${job}/meshes?keys=${meshes.map((mesh) => mesh.key).join()}`;
    const got = await fetch(path);
    if (!got.ok || !got.body)
      throw new Failed({ ...problemOf(new Error(`${path}: ${got.status}`)), status: got.status });
    await inFrames(got.body.getReader(), (key, mesh) => {
      for (const wanting of meshes.filter((each) => each.key === key)) {
        if (mesh.byteLength) wanting.take(mesh);
        else wanting.fail(new Error("This mesh belongs to another revision of the job."));
      }
    });
    for (const mesh of meshes) mesh.fail(new Error("The answer broke off."));
  } catch (error) {
    for (const mesh of meshes) mesh.fail(error);
  }
}

/** Read frames as they come: a key of 32 letters, a size, and as many bytes. */
async function inFrames(
  reader: ReadableStreamDefaultReader<Uint8Array>,
  act: (key: string, mesh: ArrayBuffer) => void,
) {
  let rest = new Uint8Array(0);
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return;
    const joined = new Uint8Array(rest.length + value.length);
    joined.set(rest);
    joined.set(value, rest.length);
    rest = joined;
    while (rest.length >= 36) {
      const size = new DataView(rest.buffer, rest.byteOffset).getUint32(32, true);
      if (rest.length < 36 + size) break;
      act(new TextDecoder().decode(rest.subarray(0, 32)), rest.slice(36, 36 + size).buffer);
      rest = rest.subarray(36 + size);
    }
  }
}
