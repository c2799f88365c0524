const formats = new Map<string, Intl.DateTimeFormat>();

let last = { minute: Number.NaN, zone: '', day: '' };

/**
 * Returns the calendar day in a time zone, as RFC 3339 full-date. Caches formatters, which are slow to create.
 * @param moment milliseconds since the epoch
 * @param zone IANA name of the time zone
 * @returns `YYYY-MM-DD`
 */
export function today(moment: number, zone: string): string {
  // No time zone changes its day in the middle of a minute.
  const minute = Math.floor(moment / 60_000);
  if (last.minute === minute && last.zone === zone) return last.day;
  let format = formats.get(zone);
  if (!format) {
    // The Swedish locale writes dates the way ISO 8601 does.
    format = new Intl.DateTimeFormat('sv-SE', { timeZone: zone, dateStyle: 'short' });
    formats.set(zone, format);
  }
  last = { minute, zone, day: format.format(moment) };
  return last.day;
}
