import { type Exchange, LONGEST_BODY, type OnExchange } from '../trace/exchanges/exchange.js';
import type { FetchPort } from './ports.js';

/** The same way out, which tells of each exchange. */
export const capturing =
  (fetch: FetchPort, captureExchange: OnExchange): FetchPort =>
  async (request, options) => {
    const { method, url, headers, binary } = request;
    const told = (text: string, side: 'body' | 'answer') =>
      binary === 'both' || binary === side ? `(${text.length} characters of base64)` : text;
    const exchange: Exchange = {
      at: Date.now(),
      request: { method, address: url, headers, body: told(request.body ?? '', 'body') },
      answer: null,
    };
    captureExchange(exchange);
    let heard = '';
    let length = 0;
    const { onPiece } = options;
    const taken = onPiece && {
      onPiece: (piece: string) => {
        length += piece.length;
        if (heard.length <= LONGEST_BODY) heard += piece;
        onPiece(piece);
      },
    };
    const body = () => ({ body: heard, ...(length > heard.length && { characters: length }) });
    try {
      const answer = await fetch(request, { ...options, ...taken });
      const whole = answer.body === '' && length > 0 ? body() : { body: told(answer.body, 'answer') };
      exchange.answer = { status: answer.status, headers: answer.headers, ...whole };
      return answer;
    } catch (error) {
      if (length > 0) exchange.answer = body();
      exchange.error = error instanceof Error ? error.message : String(error);
      throw error;
    }
  };
