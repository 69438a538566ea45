/** The formats that files are read from and written in, as the service lists them. */
import { useQuery } from "@tanstack/react-query";
import { answer, api, type Formats } from "./client";

export function useFormats(): Formats | undefined {
  return useQuery({
    queryKey: ["formats"],
    queryFn: () => answer<Formats>(api.GET("/api/formats")),
    staleTime: Number.POSITIVE_INFINITY,
  }).data;
}
