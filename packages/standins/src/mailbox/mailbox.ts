import { randomUUID } from 'node:crypto';
import { createServer } from 'node:http';
import { type AddressObject, simpleParser } from 'mailparser';
import { SMTPServer } from 'smtp-server';
import { listen } from '../listen.js';

export interface Message {
  id: string;
  from: string;
  to: string[];
  subject: string;
  text: string;
  at: string;
}
export interface Mailbox {
  smtpPort: number;
  /** Address that lists what has arrived, at `/messages`. */
  url: string;
  messages: Message[];
  close(): Promise<void>;
}

/** More than this is not kept; the oldest leave first. */
const KEPT = 500;
const addresses = (list: AddressObject | AddressObject[] | undefined) =>
  [list ?? []].flat().flatMap((one) => one.value.map((entry) => entry.address ?? ''));

/** A mailbox: takes mail over SMTP (RFC 5321), for anybody but nobody, and shows it over HTTP. */
export async function startMailbox(
  options: { smtpPort?: number; httpPort?: number; messages?: Message[]; onMessage?: (message: Message) => void } = {},
): Promise<Mailbox> {
  const messages: Message[] = [...(options.messages ?? [])];
  const smtp = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS'],
    size: 1024 * 1024,
    onRcptTo: ({ address }, _session, done) =>
      done(
        address.startsWith('nobody@')
          ? Object.assign(new Error('There is no such mailbox'), { responseCode: 550 })
          : null,
      ),
    onData: (stream, _session, done) => {
      simpleParser(stream)
        .then((mail) => {
          const message: Message = {
            id: randomUUID(),
            from: addresses(mail.from)[0] ?? '',
            to: addresses(mail.to),
            subject: mail.subject ?? '',
            text: mail.text ?? '',
            at: new Date().toISOString(),
          };
          messages.push(message);
          messages.splice(0, messages.length - KEPT);
          options.onMessage?.(message);
          done();
        })
        .catch(done);
    },
  });
  const http = createServer((request, response) => {
    const found = request.url === '/messages';
    response.writeHead(found ? 200 : 404, { 'content-type': 'application/json' });
    response.end(JSON.stringify(found ? { items: messages.toReversed() } : { error: 'not found' }));
  });
  const smtpPort = await listen(smtp.server, options.smtpPort ?? 0);
  const httpPort = await listen(http, options.httpPort ?? 0);
  return {
    smtpPort,
    url: `http://127.0.0.1:${httpPort}`,
    messages,
    close: async () => {
      await new Promise<void>((resolve) => smtp.close(() => resolve()));
      http.closeAllConnections();
      await new Promise((resolve) => http.close(resolve));
    },
  };
}
