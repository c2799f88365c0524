import { createServer } from 'node:http';
import express, { type NextFunction, type Request, type Response } from 'express';
import { listen } from '../listen.js';
import { openApiDocument } from './openapi.js';

export interface Wholesaler {
  url: string;
  /** Address of its OpenAPI document. */
  document: string;
  orders: Order[];
  close(): Promise<void>;
}
export interface Order {
  id: string;
  hut: string;
  day: string;
  lines: { item: string; quantity: number }[];
  weight_kg: number;
  price: number;
  state: 'accepted' | 'packed';
}
export interface StockItem {
  item: string;
  unit: string;
  on_hand: number;
  price: number;
  weight_kg: number;
}

export const STOCK: StockItem[] = [
  ['flour', 'sack', 40, 18.5, 25],
  ['potatoes', 'sack', 32, 14, 20],
  ['lentils', 'bag', 60, 6.2, 5],
  ['rice', 'bag', 55, 7.1, 5],
  ['cheese', 'wheel', 18, 62, 7],
  ['butter', 'box', 24, 31, 10],
  ['milk powder', 'tin', 48, 12.4, 2],
  ['coffee', 'bag', 70, 11.9, 1],
  ['tea', 'box', 80, 5.5, 0.5],
  ['tomatoes', 'crate', 20, 16, 12],
  ['onions', 'net', 36, 8, 10],
  ['apples', 'crate', 22, 19, 15],
  ['firewood', 'bundle', 90, 7.5, 15],
  ['gas bottles', 'bottle', 16, 28, 33],
  ['candles', 'box', 45, 9, 2],
].map(([item, unit, on_hand, price, weight_kg]) => ({ item, unit, on_hand, price, weight_kg }) as StockItem);

/** A provisions wholesaler with a plain web API behind a header key. */
export async function startWholesaler(options: {
  port?: number;
  key: string;
  orders?: Order[];
  onOrder?: (orders: Order[]) => void;
}): Promise<Wholesaler> {
  const orders = [...(options.orders ?? [])];
  const stock = STOCK.map((item) => ({ ...item }));
  const app = express();
  let url = '';
  app.get('/openapi.json', (_request, response) => void response.json(openApiDocument(url)));
  app.use((request: Request, response: Response, next: NextFunction) => {
    if (request.headers['x-wholesale-key'] === options.key) return next();
    response.status(401).json({ error: 'Send your key in the header X-Wholesale-Key.' });
  });
  app.get('/stock', (request, response) => {
    const word = String(request.query.item ?? '').toLowerCase();
    const page = Math.max(1, Number(request.query.page ?? 1) || 1);
    const size = Math.min(50, Math.max(1, Number(request.query.page_size ?? 5) || 5));
    const found = stock.filter(({ item }) => item.includes(word));
    const items = found.slice((page - 1) * size, page * size);
    if (page * size < found.length) {
      const next = new URL(request.originalUrl, url);
      next.searchParams.set('page', String(page + 1));
      response.set('Link', `<${next.href}>; rel="next"`);
    }
    response.json({ items, page, total: found.length });
  });
  app.post('/orders', express.json(), (request, response) => {
    const { hut, day, lines } = (request.body ?? {}) as Partial<Order>;
    if (typeof hut !== 'string' || typeof day !== 'string' || !Array.isArray(lines) || lines.length === 0)
      return void response.status(422).json({ error: 'An order needs "hut", "day" and at least one line.' });
    if (Number.isNaN(Date.parse(day)))
      return void response.status(422).json({ error: 'The order cannot be taken.', errors: { day: ['is no day'] } });
    for (const line of lines) {
      const known = stock.find(({ item }) => item === line.item);
      if (!known) return void response.status(422).json({ error: `There is no "${line.item}" in stock.` });
      if (!Number.isInteger(line.quantity) || line.quantity < 1 || line.quantity > known.on_hand)
        return void response.status(409).json({ error: `Only ${known.on_hand} of "${line.item}" are on hand.` });
    }
    let weight = 0;
    let price = 0;
    for (const line of lines) {
      const known = stock.find(({ item }) => item === line.item)!;
      known.on_hand -= line.quantity;
      weight += known.weight_kg * line.quantity;
      price += known.price * line.quantity;
    }
    const order: Order = {
      id: `w${orders.length + 1001}`,
      hut,
      day,
      lines,
      weight_kg: Math.round(weight * 10) / 10,
      price: Math.round(price * 100) / 100,
      state: 'accepted',
    };
    orders.push(order);
    options.onOrder?.(orders);
    response.status(201).json(order);
  });
  app.get('/orders/:id', (request, response) => {
    const order = orders.find(({ id }) => id === request.params.id);
    if (!order) return void response.status(404).json({ error: `There is no order "${request.params.id}".` });
    response.json(order);
  });
  const http = createServer(app);
  const port = await listen(http, options.port ?? 0);
  url = `http://127.0.0.1:${port}`;
  return {
    url,
    document: `${url}/openapi.json`,
    orders,
    close: async () => {
      http.closeAllConnections();
      await new Promise((resolve) => http.close(resolve));
    },
  };
}
