/** `review`: what changes between two files, for somebody who says yes or no: as Markdown, or as one page by itself. */
import { markdownCode, markdownText } from '#core/base';
import type { Day } from '#core/base';
import { diffSites, planCrossing } from '#core/change';
import { isOfBox } from '#core/notation';
import { Reach, ReachMemory, ReachTable, compareReach } from '#core/reach';
import {
  CHANGE_HEADS,
  FATE_WORDS,
  changeOfReachText,
  changeTexts,
  htmlText,
  stepLine,
  todoText,
} from '#words';
import { bothEnds } from './plan';
import type { CommandResult } from './outcome';

interface Section {
  readonly head: string;
  readonly lines: readonly string[];
}

export function review(
  old: string,
  fresh: string,
  wiring: string | undefined,
  html: boolean,
  at?: Day,
): CommandResult {
  const [before, after] = bothEnds(old, fresh, wiring, at);
  const changes = diffSites(before.site, after.site, isOfBox);
  const memory = new ReachMemory();
  const [was, is] = [before, after].map((model) => new ReachTable(new Reach(model), memory));
  const plan = planCrossing(before, after);
  const sections: Section[] = [
    ...CHANGE_HEADS.map((head, rank) => ({
      head,
      lines: changes.filter((c) => c.rank === rank).flatMap(changeTexts),
    })),
    { head: 'Who reaches what', lines: compareReach(was!, is!).map(changeOfReachText) },
    {
      head: `Crossing${plan.seat ? `, with ${plan.seat.name} at the desk` : ''}`,
      lines: plan.steps.map((step, i) => {
        const todo = todoText(step, plan);
        const seat = plan.seat?.before ? ` (${plan.seat.name} ${FATE_WORDS[step.fate]})` : '';
        return `${i + 1}. ${stepLine(step, plan)}${seat}${todo === undefined ? '' : ` ${todo}`}`;
      }),
    },
  ].filter((s) => s.lines.length > 0);
  const title = `${old} to ${fresh}`;
  const json = { changes: sections, lockout: plan.lockout };
  return {
    json,
    text: html ? page(title, sections) : markdown(title, sections),
    status: plan.lockout ? 1 : 0,
  };
}

const markdown = (title: string, sections: readonly Section[]): string =>
  [
    `# ${markdownText(title)}`,
    ...(sections.length ? [] : ['', 'Nothing changes.']),
    ...sections.flatMap((s) => ['', `## ${s.head}`, '', ...s.lines.map((l) => `- [ ] ${markdownCode(l)}`)]),
    '',
  ].join('\n');

/** One page that needs nothing else, with a box to tick beside each sentence. */
const page = (title: string, sections: readonly Section[]): string =>
  [
    '<!doctype html>',
    '<html lang="en"><head><meta charset="utf-8">',
    `<title>${htmlText(title)}</title>`,
    '<style>body{font:16px/1.5 system-ui,sans-serif;max-width:60rem;margin:2rem auto;padding:0 1rem;color:#222;background:#fff}li{list-style:none;margin:.3rem 0}ul{padding:0}label{display:flex;gap:.6rem}code{font-size:.95em;overflow-wrap:anywhere}</style>',
    `</head><body><h1>${htmlText(title)}</h1>`,
    ...(sections.length ? [] : ['<p>Nothing changes.</p>']),
    ...sections.map(
      (s) =>
        `<h2>${htmlText(s.head)}</h2><ul>${s.lines
          .map((l) => `<li><label><input type="checkbox"><code>${htmlText(l)}</code></label></li>`)
          .join('')}</ul>`,
    ),
    '</body></html>',
    '',
  ].join('\n');
