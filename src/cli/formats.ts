/** `read-handoff`, `read-box` and `convert`: from and to other forms. */
import { execFileSync } from 'node:child_process';
import { readHandoff } from '#core/formats/handoff';
import type { Handoff } from '#core/formats/handoff';
import { readLinuxBox } from '#core/formats/linux';
import type { LinuxReports } from '#core/formats/linux';
import { wiringSheet } from '#core/formats/wiring';
import { readYang, writeYang } from '#core/formats/yang';
import { leaveSecretsOut, twinText } from '#core/edits';
import { oneLine, parseDocument, printDocument } from '#core/notation';
import type { Document } from '#core/notation';
import { generationOf, scriptOf } from '#core/linux';
import { modelOf } from '#core/model';
import { buildSite } from '#core/site';
import { hingeText } from '../lib/server/hinge';
import {
  MISSING_TEXTS,
  contradictionText,
  lackText,
  ledgerOf,
  secretsLeftText,
  wiringSheetText,
} from '#words';
import { Unusable, readModel, readSound, readText } from './input';
import type { CommandResult } from './outcome';

export function handoff(
  file: string,
  options: { name?: string; port?: string; zone?: string },
): CommandResult {
  const read = readHandoff(readText(file), options);
  const circuits = read.circuits ?? [read];
  const jsonOf = ({ found, missing, contradictions, statement }: Handoff) => ({
    found,
    missing,
    contradictions: contradictions.map(contradictionText),
    statement,
  });
  const json = { ...jsonOf(read), ...(read.circuits ? { circuits: read.circuits.map(jsonOf) } : {}) };
  const lines = circuits.flatMap((circuit, i) => [
    ...(read.circuits ? [`${i ? '\n' : ''}circuit ${i + 1} of ${circuits.length}`] : []),
    ...ledgerOf(circuit.found).map((r) => `  ${r.label.padEnd(14)} ${r.value}`),
    ...circuit.missing.map((m) => `  missing: ${MISSING_TEXTS[m] ?? m}`),
    ...circuit.contradictions.map((c) => `  contradiction: ${contradictionText(c)}`),
    '',
    circuit.statement,
  ]);
  const good = circuits.every((c) => !c.missing.length && !c.contradictions.length);
  return { json, text: `${lines.join('\n')}\n`, status: good ? 0 : 1 };
}

/** Runs one of `ip`'s reports. */
function ask(args: readonly string[]): string {
  try {
    return execFileSync('ip', args, {
      encoding: 'utf8',
      maxBuffer: 64 * 1024 * 1024,
      stdio: ['ignore', 'pipe', 'pipe'],
    });
  } catch (error) {
    const missing = (error as NodeJS.ErrnoException).code === 'ENOENT';
    throw new Unusable(
      missing
        ? 'there is no `ip` command here; give its reports with --link, --addr and --route'
        : `ip ${args.join(' ')} failed`,
    );
  }
}

export function readBox(given: { link?: string; addr?: string; route?: string }): CommandResult {
  const fromFiles = given.link !== undefined || given.addr !== undefined || given.route !== undefined;
  if (fromFiles && (given.link === undefined || given.addr === undefined || given.route === undefined))
    throw new Unusable('give all three of --link, --addr and --route, or none of them');
  const reports: LinuxReports = fromFiles
    ? { link: readText(given.link!), addr: readText(given.addr!), route: readText(given.route!) }
    : {
        link: ask(['-j', '-d', 'link']),
        addr: ask(['-j', 'addr']),
        route: ask(['-j', 'route']),
      };
  const read = readLinuxBox(reports);
  if (!read.ok)
    throw new Unusable(`the ${read.fault.report} report cannot be read: ${read.fault.why}`, {
      file: fromFiles && read.fault.report !== 'rule' ? given[read.fault.report] : undefined,
    });
  return withLeft(read.value);
}

const FORMS = ['notation', 'json', 'linux', 'wiring-sheet', 'twin'] as const;

/** The documents of files, without the secrets of logins unless they are asked for; how many were left out is told. */
function readToHandOn(
  files: readonly string[],
  withSecrets: boolean,
): { readonly documents: readonly Document[]; readonly note?: string } {
  const documents = readSound(files);
  if (withSecrets) return { documents };
  const bare = documents.map((d) => ({ file: d.file, ...leaveSecretsOut(d.text) }));
  const left = bare.reduce((sum, b) => sum + b.left, 0);
  if (!left) return { documents };
  return {
    documents: bare.map((b) => parseDocument(b.text, b.file)),
    note: secretsLeftText(left),
  };
}

/** Files in another form; secrets of logins only where they are asked for. Throws Unusable for a form that is none. */
export function convert(files: readonly string[], to: string, withSecrets = false): CommandResult {
  const form = FORMS.find((f) => f === to);
  if (!form)
    throw new Unusable(
      `“${to}” is no form that can be written; there are ${FORMS.map((f) => `\`--to ${f}\``).join(', ')}`,
    );
  const [only] = files;
  if (only !== undefined && files.length === 1 && /\.json$/i.test(only)) return fromJson(only, form);
  switch (form) {
    case 'linux':
      return asLinux(files, withSecrets);
    case 'json': {
      const { documents, note } = readToHandOn(files, withSecrets);
      const json = writeYang(buildSite(documents));
      return { text: `${JSON.stringify(json, null, 2)}\n`, json, status: 0, note };
    }
    case 'wiring-sheet': {
      const sheet = wiringSheet(readModel(files));
      return { text: wiringSheetText(sheet), json: sheet, status: 0 };
    }
    case 'twin': {
      const { documents, note } = readToHandOn(files, withSecrets);
      const text = twinText(buildSite(documents));
      if (text === undefined)
        throw new Unusable(
          'the text speaks of no second box; write `twin NAME` at the box and `virtual A id N with B` at interfaces',
          { file: files[0]! },
        );
      return { text, json: { text }, status: 0, note };
    }
    case 'notation': {
      const { documents, note } = readToHandOn(files, withSecrets);
      const text = documents.map(printDocument).join('\n');
      return { text, json: { text }, status: 0, note };
    }
  }
}

/** A document of the open form, as statements. */
function fromJson(file: string, to: (typeof FORMS)[number]): CommandResult {
  if (to !== 'notation') throw new Unusable(`${file} can be written \`--to notation\` only`, { file });
  const read = readYang(readText(file));
  if (!read.ok)
    throw new Unusable(`${file} cannot be read${read.where ? ` at ${read.where}` : ''}: ${read.why}`, {
      file,
    });
  return withLeft(read);
}

/** What was read, and behind it what was not taken. */
const withLeft = ({
  text,
  left,
}: {
  readonly text: string;
  readonly left: readonly string[];
}): CommandResult => ({
  json: { text, left: left.map(oneLine) },
  text: text + left.map((l) => `# not taken: ${oneLine(l)}\n`).join(''),
  status: 0,
});

/** The box as a script that tells it to a Linux box: what `live try` would tell it, without a trial. */
function asLinux(files: readonly string[], withSecrets: boolean): CommandResult {
  const { documents, note } = readToHandOn(files, withSecrets);
  const site = buildSite(documents);
  const generation = generationOf(
    modelOf(site),
    documents.map((d) => ({ name: d.file, text: d.text })),
  );
  const graver = generation.lacks.find((l) => l.code !== 'secret-missing');
  if (graver) throw new Unusable(`a Linux box cannot be told this: ${lackText(graver)}`);
  const left = generation.lacks.map(lackText);
  const text = scriptOf(generation, hingeText(), site.box?.name ?? 'box', left);
  const told = Object.fromEntries(generation.files.map((f) => [f.name, f.text]));
  return { text, json: { text, left, id: generation.id, files: told }, status: 0, note };
}
