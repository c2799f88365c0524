import { PindroError } from '@pindro/core';
import { answerInThread } from '@pindro/service/parts';

/* A thread that does as it is told, whatever that is. */
const act = (what: string): string => {
  if (what === 'for ever') for (;;) Math.random();
  if (what === 'too much') for (const all: number[][] = []; ; ) all.push(new Array(100_000).fill(all.length));
  if (what === 'break') throw new Error('nobody foresaw it');
  if (what === 'refuse')
    throw new PindroError('request_invalid', { why: 'not this' }, { mistakes: [{ at: '/a', message: 'no' }] });
  return `${what} done`;
};
answerInThread({ act });
