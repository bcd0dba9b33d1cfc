/**
 * The editor of one file. The session owns the text and its history: what is typed is handed to it as edits of the
 * real text (line endings as they were), and what it changes elsewhere comes back as the least change.
 */
import { autocompletion, completionKeymap, acceptCompletion } from '@codemirror/autocomplete';
import type { Completion as Offer, CompletionContext, CompletionResult } from '@codemirror/autocomplete';
import { defaultKeymap, indentLess } from '@codemirror/commands';
import {
  codeFolding,
  foldEffect,
  foldGutter,
  foldKeymap,
  foldService,
  foldedRanges,
  syntaxHighlighting,
  unfoldEffect,
} from '@codemirror/language';
import { lintGutter, lintKeymap, setDiagnostics } from '@codemirror/lint';
import type { Diagnostic } from '@codemirror/lint';
import { highlightSelectionMatches, search, searchKeymap } from '@codemirror/search';
import { Annotation, EditorState, Prec } from '@codemirror/state';
import {
  EditorView,
  drawSelection,
  highlightActiveLine,
  highlightActiveLineGutter,
  highlightSpecialChars,
  hoverTooltip,
  keymap,
  lineNumbers,
  tooltips,
} from '@codemirror/view';
import { applyEdits, complete, diffEdits, endOfLine, written } from '#core/notation';
import type { Document, Edit, KnownNames, Statement } from '#core/notation';
import type { Fact } from './facts';
import { gateLanguage, gateStyle } from './language';
import { toOffset, toPosition } from './positions';

/** What the editor asks of the page around it. Offsets are those of the real text. */
export interface EditorSide {
  readonly label: string;
  /** The text as it stands. */
  text(): string;
  document(): Document;
  names(): KnownNames;
  plausible(statement: Statement, clause: string): readonly string[];
  facts(statement: Statement | undefined, word: string): readonly Fact[];
  /** The text was typed in: its new form, and the statement that the caret is in. */
  typed(text: string, statement: Statement | undefined): void;
  caret(offset: number): void;
  undo(): void;
  redo(): void;
  left(): void;
  /** Shows the statement under the caret on the board. */
  toBoard(): void;
}

export interface Editor {
  /** Brings the editor to the session's text. */
  sync(): void;
  mark(diagnostics: readonly Diagnostic[]): void;
  /** Puts the caret at an offset of the real text and shows it. */
  reveal(offset: number): void;
  /** Folds the bodies of these statements, or unfolds them where all are folded. */
  fold(statements: readonly Statement[]): void;
  destroy(): void;
}

/** Marks a change that came from the session, so that it is not handed back. */
const fromSession = Annotation.define<boolean>();

const shown = (text: string): string => text.replace(/\r\n/g, '\n');

const theme = EditorView.theme({
  '&': {
    height: '100%',
    fontSize: '12.5px',
    backgroundColor: 'transparent',
    color: 'var(--color-base-content)',
  },
  '.cm-scroller': {
    fontFamily: 'var(--font-mono)',
    lineHeight: '19px',
    fontVariantNumeric: 'tabular-nums slashed-zero',
  },
  '.cm-content': { padding: '8px 0', caretColor: 'var(--color-base-content)' },
  '.cm-cursor': { borderLeftColor: 'var(--color-base-content)', borderLeftWidth: '2px' },
  '&.cm-focused': { outline: '3px solid var(--focus)', outlineOffset: '-3px' },
  '.cm-gutters': {
    backgroundColor: 'var(--color-base-200)',
    color: 'var(--quiet)',
    borderRight: '1px solid var(--color-base-300)',
  },
  '.cm-activeLine': { backgroundColor: 'color-mix(in srgb, var(--color-accent) 45%, transparent)' },
  '.cm-activeLineGutter': { backgroundColor: 'transparent', fontWeight: '700' },
  '&.cm-focused .cm-selectionBackground, .cm-selectionBackground': {
    backgroundColor: 'color-mix(in srgb, var(--focus) 25%, transparent) !important',
  },
  '.cm-selectionMatch': { backgroundColor: 'color-mix(in srgb, var(--color-info) 18%, transparent)' },
  '.cm-searchMatch': { backgroundColor: 'color-mix(in srgb, var(--color-warning) 30%, transparent)' },
  '.cm-tooltip': {
    backgroundColor: 'var(--color-base-100)',
    color: 'var(--color-base-content)',
    border: '1px solid var(--quiet)',
    borderRadius: '4px',
    font: '12px/16px var(--font-sans)',
  },
  '.cm-tooltip-autocomplete ul li[aria-selected]': {
    backgroundColor: 'var(--color-accent)',
    color: 'var(--color-accent-content)',
  },
  '.cm-facts': { padding: '6px 10px', display: 'grid', gridTemplateColumns: 'auto 1fr', gap: '2px 10px' },
  '.cm-facts dt': { color: 'var(--quiet)' },
  '.cm-facts dd': { margin: '0', fontFamily: 'var(--font-mono)' },
  '.cm-panels': { backgroundColor: 'var(--color-base-200)', color: 'var(--color-base-content)' },
  '.cm-button, .cm-textfield': {
    backgroundImage: 'none',
    backgroundColor: 'var(--color-base-100)',
    color: 'inherit',
    border: '1px solid var(--quiet)',
    borderRadius: '4px',
  },
  '.cm-foldPlaceholder': {
    backgroundColor: 'var(--color-accent)',
    color: 'var(--color-accent-content)',
    border: '0',
    padding: '0 6px',
  },
  '.cm-lint-marker': { content: 'normal', width: '1em', textAlign: 'center' },
  '.cm-lint-marker-error::before': { content: '"■"', color: 'var(--color-error)' },
  '.cm-lint-marker-warning::before': { content: '"▲"', color: 'var(--color-warning)' },
  '.cm-lint-marker-info::before': { content: '"●"', color: 'var(--quiet)' },
  '.cm-diagnosticAction': { backgroundColor: 'var(--color-primary)', color: 'var(--color-primary-content)' },
});

/** The statement that holds an offset of the real text, its trailing line included. */
export const statementAt = (document: Document, offset: number): Statement | undefined =>
  document.statements.find((s) => offset >= s.start && offset <= s.end + 1);

/** The first offset of the statement's body that is folded away: behind its head. */
const bodyOf = (text: string, s: Statement): { from: number; to: number } | undefined => {
  const [from, to] = [toPosition(text, written(s).headEnd), toPosition(text, s.end)];
  return to - from > 12 ? { from, to } : undefined;
};

export function createEditor(parent: HTMLElement, root: ShadowRoot, side: EditorSide): Editor {
  let known = side.text();
  const here = (state: EditorState) =>
    statementAt(side.document(), toOffset(known, state.selection.main.head));

  function completions(context: CompletionContext): CompletionResult | null {
    const offset = toOffset(known, context.pos);
    const start = startOf(known, offset);
    const statement = known.slice(start, offset).replace(/\r/g, '');
    const word = /[^\s,>]*$/.exec(statement)![0];
    const asked = context.explicit || word !== '' || /[a-z0-9] $/.test(statement);
    if (!asked || statement.includes('#')) return null;
    const from = context.pos - word.length;
    const clause = /(?:^|[,:])\s*([a-z0-9]+)\s[^,]*$/.exec(statement)?.[1] ?? '';
    const last = /(\S+)\s+\S*$/.exec(statement)?.[1] ?? '';
    const of = statementAt(side.document(), offset) ?? statementAt(side.document(), start);
    const values = of ? side.plausible(of, last === 'tag' ? 'tag' : clause) : [];
    const offers: Offer[] = [
      ...values
        .filter((v) => v.startsWith(word) && v !== word)
        .map((v) => ({ label: v, type: 'constant', boost: 2 })),
      ...complete(statement, statement.length, side.names()).map((c) => ({
        label: c.insert.trim(),
        apply: c.insert,
        type: { kind: 'keyword', clause: 'property', name: 'variable', word: 'text' }[c.about],
      })),
    ];
    return offers.length ? { from, options: offers, filter: false } : null;
  }

  const hover = hoverTooltip((view, pos) => {
    const line = view.state.doc.lineAt(pos);
    const left = /[^\s,>"#]*$/.exec(line.text.slice(0, pos - line.from))![0];
    const right = /^[^\s,>"#]*/.exec(line.text.slice(pos - line.from))![0];
    const word = (left + right).replace(/:$/, '');
    const facts = word ? side.facts(statementAt(side.document(), toOffset(known, pos)), word) : [];
    if (!facts.length) return null;
    return {
      pos: pos - left.length,
      end: pos + right.length,
      above: true,
      create: () => {
        const dom = document.createElement('dl');
        dom.className = 'cm-facts';
        for (const [label, value] of facts) {
          dom.append(
            Object.assign(document.createElement('dt'), { textContent: label }),
            Object.assign(document.createElement('dd'), { textContent: value }),
          );
        }
        return { dom };
      },
    };
  });

  const view = new EditorView({
    parent,
    root,
    state: EditorState.create({
      doc: shown(known),
      extensions: [
        lintGutter(),
        lineNumbers(),
        foldGutter({ openText: '▾', closedText: '▸' }),
        codeFolding(),
        foldService.of(continuation),
        EditorView.lineWrapping,
        highlightSpecialChars(),
        drawSelection(),
        highlightActiveLine(),
        highlightActiveLineGutter(),
        highlightSelectionMatches(),
        search({ top: true }),
        gateLanguage,
        syntaxHighlighting(gateStyle),
        autocompletion({ override: [completions], defaultKeymap: false, icons: false }),
        hover,
        tooltips({ position: 'fixed' }),
        theme,
        EditorView.contentAttributes.of({ tabindex: '0', 'aria-label': side.label, spellcheck: 'false' }),
        Prec.high(
          keymap.of([
            { key: 'Tab', run: acceptCompletion, shift: indentLess },
            { key: 'Mod-z', run: () => (side.undo(), true) },
            { key: 'Mod-y', run: () => (side.redo(), true) },
            { key: 'Mod-Shift-z', run: () => (side.redo(), true) },
            { key: 'Mod-Enter', run: () => (side.toBoard(), true) },
          ]),
        ),
        // Enter ends a line, as anywhere; Tab takes an offer, as on the say line.
        keymap.of([
          ...completionKeymap.filter((k) => k.key !== 'Enter'),
          ...searchKeymap,
          ...foldKeymap,
          ...lintKeymap,
          ...defaultKeymap,
        ]),
        EditorView.updateListener.of((update) => {
          if (update.docChanged && !update.transactions.some((t) => t.annotation(fromSession))) {
            const eol = endOfLine(known);
            const edits: Edit[] = [];
            update.changes.iterChanges((fromA, toA, _fromB, _toB, inserted) =>
              edits.push({
                start: toOffset(known, fromA),
                end: toOffset(known, toA),
                text: inserted.toString().replace(/\n/g, eol),
              }),
            );
            known = applyEdits(known, edits);
            side.typed(known, here(update.state));
            // The session may have refused (another tab leads): then its text stands.
            if (side.text() !== known) queueMicrotask(sync);
          }
          if (update.selectionSet || update.docChanged)
            side.caret(toOffset(known, update.state.selection.main.head));
          if (update.focusChanged && !update.view.hasFocus) side.left();
        }),
      ],
    }),
  });

  function sync(): void {
    const text = side.text();
    if (text === known) return;
    const changes = diffEdits(shown(known), shown(text)).map((e) => ({
      from: e.start,
      to: e.end,
      insert: e.text,
    }));
    known = text;
    view.dispatch({ changes, annotations: fromSession.of(true) });
  }

  return {
    sync,
    mark: (diagnostics) => view.dispatch(setDiagnostics(view.state, [...diagnostics])),
    reveal(offset) {
      const anchor = Math.min(view.state.doc.length, toPosition(known, offset));
      view.dispatch({ selection: { anchor }, effects: EditorView.scrollIntoView(anchor, { y: 'center' }) });
      view.focus();
    },
    fold(statements) {
      const bodies = statements.flatMap((s) => bodyOf(known, s) ?? []);
      const folded: { from: number; to: number }[] = [];
      foldedRanges(view.state).between(
        0,
        view.state.doc.length,
        (from, to) => void folded.push({ from, to }),
      );
      const isFolded = (b: { from: number; to: number }) =>
        folded.some((f) => f.from === b.from && f.to === b.to);
      const all = bodies.length > 0 && bodies.every(isFolded);
      const effects = all
        ? bodies.map((b) => unfoldEffect.of(b))
        : bodies.filter((b) => !isFolded(b)).map((b) => foldEffect.of(b));
      view.dispatch({ effects });
    },
    destroy: () => view.destroy(),
  };
}

/** A statement over several lines folds to its first: lines that start with white space continue it. */
function continuation(
  state: EditorState,
  lineStart: number,
  lineEnd: number,
): { from: number; to: number } | null {
  if (/^[ \t#]|^$/.test(state.sliceDoc(lineStart, lineStart + 1))) return null;
  let line = state.doc.lineAt(lineStart);
  while (line.number < state.doc.lines && /^[ \t]+\S/.test(state.doc.line(line.number + 1).text))
    line = state.doc.line(line.number + 1);
  return line.to > lineEnd ? { from: lineEnd, to: line.to } : null;
}

/** Where the statement begins that a place belongs to: lines that start with white space continue it. */
function startOf(text: string, offset: number): number {
  let start = text.lastIndexOf('\n', offset - 1) + 1;
  while (start > 0 && /[ \t]/.test(text[start] ?? '')) start = text.lastIndexOf('\n', start - 2) + 1;
  return start;
}
