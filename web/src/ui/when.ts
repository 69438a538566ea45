/** A moment as it is shown: the time of day where it is today, else the day. */
export function when(time: string): string {
  const date = new Date(time);
  const today = date.toDateString() === new Date().toDateString();
  return today
    ? date.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })
    : date.toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" });
}
