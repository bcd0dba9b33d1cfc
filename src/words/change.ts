/** Changes in sentences. */
import type { Change, Refusal } from '#core/change';

const nameOf = (subject: string): string => subject.replace(/^(interface|zone|port)\//, '').replace('/', ' ');

/** One line for each thing that changes. */
export function changeTexts(change: Change): string[] {
  const name = nameOf(change.subject);
  switch (change.kind) {
    case 'added':
      return [`new: ${change.text}`];
    case 'removed':
      return [`gone: ${change.text}`];
    case 'order':
      return [`${name}: the order is now ${change.text}`];
    case 'changed':
      return change.clauses.map((c) =>
        c.name === 'name'
          ? `${name}: its name was ${c.was}`
          : c.name === 'secret'
            ? `${name}: another secret`
            : c.was === ''
              ? `${name}: ${c.now} (new)`
              : c.now === ''
                ? `${name}: no more ${c.was}`
                : `${name}: ${c.now} (was ${c.was.replace(/^\S+ /, '')})`,
      );
  }
}

/** What the ranks of changes are called, the most consequent first. */
export const CHANGE_HEADS: readonly string[] = [
  'Newly open',
  'Ways into the box',
  'What serves or is served changes',
  'Who has to renew',
  'The rest',
];

/** Why the box refuses. */
export const REFUSALS: Readonly<Record<Refusal, string>> = {
  'trial-running': 'a trial is running: stay with it or go back first',
  'no-trial': 'no trial is running; it went back already',
  'other-trial': 'another trial is running, started elsewhere',
  'bad-time': 'a trial lasts from 5 seconds to an hour',
  'no-answer': 'the box does not answer: from where you sit there is no way in',
  'changed-meanwhile': 'what the box runs was changed by somebody else meanwhile: look at that first',
  'not-looked-at': 'what was found wrong is of another text than this: wait until this one is looked at',
  'errors-open': 'errors stand in the way: mend them, or overrule each by name',
  'factory-password': 'the box still has the password it came with: set a new one first',
};
