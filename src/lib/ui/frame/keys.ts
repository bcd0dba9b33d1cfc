/** The keys of each view, told in the help. */
import type { View } from '../../session/index';

export interface KeyGroup {
  readonly says: string;
  readonly keys: readonly (readonly [key: string, what: string])[];
}

const EVERYWHERE: KeyGroup = {
  says: 'Everywhere',
  keys: [
    ['/', 'say line: a statement, a change, a question, or what you want'],
    ['a', 'add: what do you want?'],
    ['1 … 8', 'Board, Ways out, Subnets, Passage, Proof, State, Change, Text'],
    ['f', 'findings'],
    ['Ctrl+Z, Ctrl+Y', 'undo, redo'],
    ['Esc', 'close, restore a drill, let go'],
    ['?', 'this sheet'],
  ],
};

const FIELDS: KeyGroup = {
  says: 'In a field',
  keys: [
    ['Enter', 'takes the value; in a form of what you want, writes it'],
    ['Tab', 'takes the value and goes on'],
    ['Esc', 'gives back what was there'],
  ],
};

const FIRST_LIGHT: KeyGroup = {
  says: 'In First light',
  keys: [['Ctrl+Enter', 'presses the button that leads on']],
};

const OF: Readonly<Partial<Record<View, KeyGroup>>> = {
  'first-light': FIRST_LIGHT,
  board: {
    says: 'On the board',
    keys: [
      ['arrows', 'about the board: slabs, the heads of ports and zones'],
      ['Enter', 'open a slab or head; where a port and a zone meet, start an interface'],
      ['n, o', 'one more interface here; a zone behind this one'],
      ['m', 'move: a slab to a zone or port, from a port head its cable'],
      ['b', 'bridge a slab with a port, or take the port out'],
      ['Space, Del', 'select several; remove'],
      ['Ctrl+C, Ctrl+V', 'slabs as text'],
      ['Alt+↑ ↓', 'on a zone head: its place in the order of trust'],
      ['- +', 'a row denser, looser'],
      ['s', 'filter the board'],
      ['c', 'on a port head: cut its cable on the bench (drill)'],
    ],
  },
  'ways-out': {
    says: 'In Ways out',
    keys: [
      ['Alt+↑ ↓', 'on an uplink or a statement: its place in the order'],
      ['click', 'in the chart: do the chosen deed to the chosen line at that second'],
      ['d', 'run the drill'],
    ],
  },
  subnets: {
    says: 'In Subnets',
    keys: [
      ['← →', 'on the end of a pool: one address; with Shift ten'],
      ['- +', 'on the end of a subnet: one bit longer, shorter'],
      ['Enter', 'takes it'],
    ],
  },
  proof: {
    says: 'In the proof',
    keys: [['p', 'on a cell: promise what it says']],
  },
  text: {
    says: 'In the text',
    keys: [
      ['Ctrl+Space', 'what could stand here'],
      ['Ctrl+F', 'find'],
      ['Ctrl+Enter', 'the statement under the caret, on the board'],
    ],
  },
};

export const keysOf = (view: View): readonly KeyGroup[] => {
  const own = OF[view];
  return [...(own ? [own] : []), EVERYWHERE, FIELDS];
};
