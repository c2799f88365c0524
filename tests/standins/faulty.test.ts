import { type Model, startModel, startWholesaler, type Wholesaler } from '@pindro/standins';
import { expect } from 'chai';

describe('the wholesaler', () => {
  let wholesaler: Wholesaler;
  before(async () => {
    wholesaler = await startWholesaler({ key: 'k1' });
  });
  after(() => wholesaler.close());
  const ask = async (path: string, options: RequestInit = {}, key = 'k1') => {
    const response = await fetch(wholesaler.url + path, {
      ...options,
      headers: { 'x-wholesale-key': key, 'content-type': 'application/json' },
    });
    return {
      status: response.status,
      link: response.headers.get('link'),
      body: (await response.json()) as { items: object[]; id: string; error: string },
    };
  };
  const order = (lines: object[]) =>
    ask('/orders', { method: 'POST', body: JSON.stringify({ hut: 'larch', day: '2027-02-14', lines }) });

  it('lets nobody in without its key, but describes itself to all', async () => {
    expect((await ask('/stock', {}, 'wrong')).status).to.equal(401);
    const document = (await (await fetch(wholesaler.document)).json()) as { openapi: string; paths: object };
    expect(document.openapi).to.equal('3.1.0');
    expect(Object.keys(document.paths)).to.deep.equal(['/stock', '/orders', '/orders/{id}']);
  });

  it('lists its stock page by page', async () => {
    const first = await ask('/stock?page_size=10');
    expect(first.body).to.include({ page: 1, total: 15 });
    expect(first.body.items).to.have.length(10);
    const next = /<([^>]+)>; rel="next"/.exec(first.link!)![1]!;
    const second = await ask(next.replace(wholesaler.url, ''));
    expect(second.body.items).to.have.length(5);
    expect(second.link).to.equal(null);
    expect((await ask('/stock?item=tea')).body.items).to.have.length(1);
  });

  it('takes orders, counts them off, and refuses what it has not', async () => {
    const made = await order([{ item: 'gas bottles', quantity: 2 }]);
    expect(made).to.deep.include({ status: 201 });
    expect(made.body).to.include({ weight_kg: 66, price: 56, state: 'accepted' });
    expect((await ask(`/orders/${made.body.id}`)).body).to.deep.equal(made.body);
    expect((await ask('/stock?item=gas')).body.items[0]).to.include({ on_hand: 14 });
    expect((await order([{ item: 'gas bottles', quantity: 15 }])).status).to.equal(409);
    expect((await order([{ item: 'moon dust', quantity: 1 }])).body.error).to.contain('no "moon dust"');
    expect((await order([])).status).to.equal(422);
    expect((await ask('/orders/none')).status).to.equal(404);
  });
});

describe('the model, asked for data', () => {
  let model: Model;
  before(async () => {
    model = await startModel();
  });
  after(() => model.close());

  it('answers in the schema it is given', async () => {
    const schema = {
      type: 'object',
      required: ['hut', 'party'],
      properties: {
        hut: { type: 'string', enum: ['larch', 'kestrel'] },
        party: { type: 'integer', description: 'How many people' },
        night: { type: 'string', format: 'date' },
      },
    };
    const response = await fetch(`${model.url}/chat/completions`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({
        messages: [{ role: 'user', content: 'Four of us? No, 5 people to larch on 2027-02-14.' }],
        response_format: { type: 'json_schema', json_schema: { name: 'answer', schema } },
      }),
    });
    const { choices } = (await response.json()) as { choices: { message: { content: string } }[] };
    expect(JSON.parse(choices[0]!.message.content)).to.deep.equal({ hut: 'larch', party: 5, night: '2027-02-14' });
  });
});
