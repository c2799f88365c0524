const formats = new Map<string, Intl.DateTimeFormat>();

/** The calendar day at a moment in a time zone, as RFC 3339 full-date. Formats are kept: making one is slow. */
export function today(moment: number, zone: string): string {
  let format = formats.get(zone);
  if (!format) {
    // The Swedish locale writes dates the way ISO 8601 does.
    format = new Intl.DateTimeFormat('sv-SE', { timeZone: zone, dateStyle: 'short' });
    formats.set(zone, format);
  }
  return format.format(moment);
}
