/* Streams of answers, watched for an end that comes too early. */

/** A body that tells when it ended or broke; not when it was no longer wanted. */
export function watched(
  body: ReadableStream<Uint8Array>,
  onEnd: (error?: unknown) => void,
): ReadableStream<Uint8Array> {
  const reader = body.getReader();
  return new ReadableStream({
    async pull(controller) {
      try {
        const { done, value } = await reader.read();
        if (!done) return controller.enqueue(value);
        controller.close();
        onEnd();
      } catch (error) {
        controller.error(error);
        onEnd(error);
      }
    },
    cancel: (reason) => reader.cancel(reason),
  });
}

/** The ids of requests in what is sent to a server. */
export function idsIn(body: unknown): (string | number)[] {
  if (typeof body !== 'string') return [];
  try {
    const sent: unknown = JSON.parse(body);
    return [sent].flat().flatMap((one) => {
      const { id, method } = (one ?? {}) as { id?: string | number; method?: unknown };
      return method !== undefined && id !== undefined ? [id] : [];
    });
  } catch {
    return [];
  }
}
