/** What is thrown where nothing answered. */
export const LATE = new Error('no response in time');

/** A stream that opens and says nothing would be waited for without end. @param limit in milliseconds @throws LATE */
export async function inTime<T>(work: Promise<T>, limit: number): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(LATE), limit);
  });
  return Promise.race([work, late]).finally(() => clearTimeout(timer));
}
