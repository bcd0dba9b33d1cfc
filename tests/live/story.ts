/** What every story of a live box does: it needs a field, tries texts and stays with them, and asks what runs. */
import { expect } from 'chai';
import { PLACES, WORKS, noField } from './field';
import type { Field, Ran } from './field';

export const BOX = `root@${PLACES.console}`;
export { WORKS };

/** A step of a story: what is called, with what end. */
export const ended = (ran: Ran, status: number): Ran => {
  expect(ran.status, `${ran.out}\n${ran.err}`).to.equal(status);
  return ran;
};
export const json = <T = Record<string, unknown>>(ran: Ran): T => JSON.parse(ran.out) as T;

/** For `before`: without the rights for a field its stories are skipped, and say so. */
export function needsField(this: Mocha.Context): void {
  const why = noField();
  if (why === undefined) return;
  console.log(`    no live box is tried: ${why}`);
  this.skip();
}

export const storyOf = (field: () => Field) => ({
  file: (text: string, name = 'draft.gate') => field().file(name, text),
  /** Tries a text and stays with it. */
  keep: (text: string) =>
    ended(
      field().live('try', BOX, field().file('draft.gate', text), '--stay-if', 'proven', '--seconds', '3600'),
      0,
    ),
  runs: () =>
    json<{ box: { running: string; startup: string; trial?: object } }>(field().live('state', BOX, '--json'))
      .box,
});
