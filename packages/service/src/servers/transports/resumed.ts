import { createParser } from 'eventsource-parser';

const FIRST_PAUSE = 500;
const LONGEST_PAUSE = 10_000;

/** Takes up the stream that ended, behind the event of this id. Throws or answers without a stream where it cannot. */
export type TakeUp = (lastEventId: string) => Promise<Response>;

interface Resuming {
  /** Whether all answers have come, by what has been read. */
  isComplete(): boolean;
  takeUp: TakeUp;
  /** Told when it ended for good. */
  onEnd(): void;
  /** How often it is taken up again. */
  most: number;
}

/**
 * A stream of events that resumes after an interruption, as in Streamable HTTP (`Last-Event-ID`, `retry`), until
 * nothing more is expected. Readers do not notice.
 */
export function resumed(
  first: ReadableStream<Uint8Array>,
  { isComplete, takeUp, onEnd, most }: Resuming,
  onEvent: (data: string) => void,
): ReadableStream<Uint8Array> {
  let reader = first.getReader();
  let last: string | null = null;
  let pause = FIRST_PAUSE;
  let turns = 0;
  const decoder = new TextDecoder();
  const fresh = () =>
    createParser({
      onEvent: ({ id, data }) => {
        if (id !== undefined) last = id;
        onEvent(data);
      },
      onRetry: (wait) => {
        pause = Math.min(wait, LONGEST_PAUSE);
      },
    });
  let parser = fresh();
  const takeUpAgain = async (): Promise<boolean> => {
    while (last !== null && !isComplete() && turns++ < most) {
      await new Promise((resolve) => setTimeout(resolve, pause));
      pause = Math.min(pause * 2, LONGEST_PAUSE);
      const response = await takeUp(last).catch(() => null);
      if (!response?.ok || !response.body) continue;
      reader = response.body.getReader();
      // A half event of before is no beginning of one.
      parser = fresh();
      return true;
    }
    return false;
  };
  return new ReadableStream({
    async pull(controller) {
      for (;;) {
        const piece = await reader.read().catch(() => null);
        if (piece && !piece.done) {
          parser.feed(decoder.decode(piece.value, { stream: true }));
          controller.enqueue(piece.value);
          return;
        }
        if (await takeUpAgain()) {
          // What was cut in the middle of an event ends here.
          controller.enqueue(new TextEncoder().encode('\n\n'));
          return;
        }
        controller.close();
        onEnd();
        return;
      }
    },
    cancel: (reason) => reader.cancel(reason),
  });
}
