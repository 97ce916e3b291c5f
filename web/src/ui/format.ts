/** Numbers and times as people read them. */

export function hourText(hours: number): string {
  const minutes = Math.round(hours * 60) % 1440;
  return `${String(Math.floor(minutes / 60)).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;
}

export function parseHour(text: string): number | null {
  const match = /^\s*(\d{1,2})(?:[:.](\d{2}))?\s*$/.exec(text);
  if (!match) return null;
  const value = Number(match[1]) + Number(match[2] ?? 0) / 60;
  return value >= 0 && value < 24 && Number(match[2] ?? 0) < 60 ? value : null;
}

export function hourOf(when: string): number {
  const [, time] = when.split("T");
  const [h, m, s] = time.split(":").map(Number);
  return h + m / 60 + (s || 0) / 3600;
}

export function withHour(when: string, hours: number): string {
  const minutes = Math.min(Math.round(hours * 60), 1439);
  return `${when.slice(0, 10)}T${hourText(minutes / 60)}:00`;
}

const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

export function dayText(when: string): string {
  return `${Number(when.slice(8, 10))} ${MONTHS[Number(when.slice(5, 7)) - 1]}`;
}

export function dayOfYear(day: string): number {
  return Math.round(
    (Date.parse(`${day}T00:00:00Z`) - Date.parse(`${day.slice(0, 4)}-01-01T00:00:00Z`)) / 864e5,
  );
}

export function dayFromIndex(year: string, index: number): string {
  return new Date(Date.parse(`${year}-01-01T00:00:00Z`) + index * 864e5).toISOString().slice(0, 10);
}

export function shutterText(seconds: number): string {
  if (seconds >= 0.4) return `${Number(seconds.toPrecision(3))} s`;
  return `1/${Math.round(1 / seconds)} s`;
}

export function parseShutter(text: string): number | null {
  const match = /^\s*(?:1\s*\/\s*)?([\d.]+)\s*s?\s*$/.exec(text);
  if (!match) return null;
  const value = Number(match[1]);
  if (!Number.isFinite(value) || value <= 0) return null;
  return text.includes("/") ? 1 / value : value;
}

export function timeLeft(seconds: number | null | undefined): string {
  if (seconds === null || seconds === undefined) return "time not known yet";
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  return `${Math.round(seconds / 60)} min`;
}

export function lux(value: number): string {
  if (value >= 10000) return `${(value / 1000).toFixed(1)} klx`;
  if (value >= 100) return `${Math.round(value)} lx`;
  return `${Number(value.toPrecision(2))} lx`;
}

/** Clock time of a moment, as it is where the reader sits. */
export function clockText(moment: string): string {
  const date = new Date(moment);
  return `${String(date.getHours()).padStart(2, "0")}:${String(date.getMinutes()).padStart(2, "0")}`;
}

export const clamp = (v: number, low: number, high: number) => Math.min(Math.max(v, low), high);
