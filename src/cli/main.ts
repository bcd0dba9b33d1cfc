/** The command line: reads the call, runs one command, prints its outcome. */
import { Command, CommanderError } from 'commander';
import { dayAt } from '#core/base';
import type { Day } from '#core/base';
import { book } from './book';
import { check } from './check';
import { answering, collect, quiet } from './command';
import { drillFiles, whatIf } from './drill';
import type { DrillOptions } from './drill';
import { convert, handoff, readBox } from './formats';
import { Unusable, readDay } from './input';
import { addLive } from './live/index';
import type { CommandResult } from './outcome';
import { planFiles } from './plan';
import { proveFiles } from './prove';
import { reachOf } from './reach';
import { review } from './review';
import { serve } from './serve';
import type { ServeOptions } from './serve';
import { traceFiles } from './trace';
import { answer, aside, jsonText } from './outlet';

/** Options of what is asked about a day. */
interface Dated {
  readonly json?: boolean;
  readonly at: Day;
}

interface FaultOptions {
  readonly cut: string[];
  readonly dead: string[];
}

function program(report: (outcome: CommandResult, json: boolean) => void): Command {
  const root = quiet(
    new Command('jolly-gate').description(
      'Configure the interfaces of an edge firewall as text, and prove the internet before you apply.',
    ),
  );
  const command = (spec: string, description: string) => answering(root, spec, description);
  /** A command whose answer depends on the day, as what has an end is over or not. */
  const dated = (spec: string, description: string) =>
    command(spec, description).option(
      '--at <day>',
      'the day that is asked about, such as 2026-12-31; today where absent',
      readDay,
      dayAt(new Date()),
    );
  const drills = (c: Command) =>
    c
      .option('--cut <port-or-circuit>', 'pull this cable first (may repeat)', collect, [])
      .option('--dead <circuit>', 'nothing answers behind this circuit (may repeat)', collect, []);

  dated('check <files...>', 'findings, in file order')
    .option('--mend <code[:subject]>', 'print the box file with the first mend of that finding applied')
    .action((files: string[], o: Dated & { mend?: string }) =>
      report(check(files, o.mend, o.at), !!o.json && o.mend === undefined),
    );
  drills(dated('prove <files...>', 'boots the bench, climbs every ladder, puts every promise')).action(
    (files: string[], o: FaultOptions & Dated) =>
      report(proveFiles(files, { cut: o.cut, dead: o.dead }, o.at), !!o.json),
  );
  drills(dated('trace <files...>', 'one flow followed stage by stage, with the reply'))
    .requiredOption('--from <x>', 'who asks: a name or an address')
    .requiredOption('--to <y>', 'who is asked')
    .option('--service <service>', 'such as "tcp 443"; ping where absent')
    .option('--pcapng <file>', 'write the frames of the box’s ports to a capture file')
    .action(
      (
        files: string[],
        o: FaultOptions & Dated & { from: string; to: string; service?: string; pcapng?: string },
      ) => report(traceFiles(files, { ...o, drill: { cut: o.cut, dead: o.dead } }), !!o.json),
    );
  dated('drill <files...>', 'a continuous ping while lines fail: what is lost, for how long, and who noticed')
    .requiredOption('--from <station>', 'who pings: a station, or `box`')
    .option('--to <far>', 'whom: a far host or an address')
    .option('--for <seconds>', 'how long', '60')
    .option(
      '--do <deed>',
      '"5 cut p1": seconds, then cut, deaden, restore, replug, slow (ms) or lossy (%) a line (may repeat)',
      collect,
      [],
    )
    .action((files: string[], o: DrillOptions & Dated) => report(drillFiles(files, o), !!o.json));
  dated('what-if <files...>', 'what every single fault would do to every desk and door')
    .option('--pairs', 'every two faults at once, too')
    .action((files: string[], o: Dated & { pairs?: boolean }) =>
      report(whatIf(files, !!o.pairs, o.at), !!o.json),
    );
  dated('reach <files...>', 'who gets to whom with what, for every pair, without the bench')
    .option('--from <name>', 'only the rows of this zone, interface or host (may repeat)', collect, [])
    .action((files: string[], o: Dated & { from: string[] }) =>
      report(reachOf(files, o.from, o.at), !!o.json),
    );
  dated('plan <running> <draft> [wiring]', 'what changes, in which order, and what it does to the seat')
    .option('--seat <station>', 'where the administrator sits; the wiring’s seat where absent')
    .action((running: string, draft: string, wiring: string | undefined, o: Dated & { seat?: string }) =>
      report(planFiles(running, draft, wiring, o.seat, o.at), !!o.json),
    );
  dated('review <old> <new> [wiring]', 'what changes, in sentences to tick off, as Markdown')
    .option('--html', 'as one page by itself')
    .action((old: string, fresh: string, wiring: string | undefined, o: Dated & { html?: boolean }) =>
      report(review(old, fresh, wiring, !!o.html, o.at), !!o.json),
    );
  dated('book <files...>', 'the site book: ports, circuits, addresses, doors, who reaches what, promises')
    .option('--html', 'as one page by itself, for printing')
    .action((files: string[], o: Dated & { html?: boolean }) =>
      report(book(files, !!o.html, o.at), !!o.json),
    );
  command('read-handoff <file>', 'reads a provider’s sheet')
    .option('--name <name>', 'name of the interface')
    .option('--port <port>', 'its port')
    .option('--zone <zone>', 'its zone')
    .action((file: string, o: { json?: boolean; name?: string; port?: string; zone?: string }) =>
      report(handoff(file, o), !!o.json),
    );
  command('read-box', 'reads what a Linux box reports into a box file')
    .option('--link <file>', 'output of `ip -j -d link`')
    .option('--addr <file>', 'output of `ip -j addr`')
    .option('--route <file>', 'output of `ip -j route`')
    .action((o: { json?: boolean; link?: string; addr?: string; route?: string }) =>
      report(readBox(o), !!o.json),
    );
  command('convert <files...>', 'writes files in another form, or lays them out anew')
    .requiredOption(
      '--to <form>',
      'notation, json, linux, wiring-sheet, or twin (the box file of the second of two boxes)',
    )
    .option('--with-secrets', 'keep the secrets of logins, which are left out otherwise')
    .action((files: string[], o: { json?: boolean; to: string; withSecrets?: boolean }) =>
      report(convert(files, o.to, !!o.withSecrets), !!o.json),
    );
  addLive(root, report);
  quiet(root.command('serve'))
    .description('starts the web application')
    .option('--port <n>', 'port to listen on', process.env.PORT ?? '4173')
    .option('--host <address>', 'address to listen on', process.env.HOST ?? '127.0.0.1')
    .option('--boxes <file>', 'a list of live boxes; ~/.config/jolly-gate/boxes.json where absent')
    .option('--practice', 'makes a box to practise with, in network namespaces of this machine')
    .action((o: ServeOptions) => serve(o));
  return root;
}

/** Runs a call; sets the exit status. */
async function main(args: readonly string[]): Promise<void> {
  const json = args.includes('--json');
  const fail = (message: string, place: Unusable['place'] = {}) => {
    process.exitCode = 2;
    if (json) answer(jsonText({ error: { message, ...place } }));
    else {
      const at = [place.file, place.line, place.column].filter((p) => p !== undefined).join(':');
      aside(`${at ? `${at}: ` : ''}${message}`);
    }
  };
  const report = (outcome: CommandResult, asJson: boolean) => {
    process.exitCode = outcome.status;
    if (outcome.note !== undefined) aside(outcome.note);
    answer(asJson && outcome.json !== undefined ? jsonText(outcome.json, 2) : outcome.text);
  };
  try {
    await program(report).parseAsync(args, { from: 'user' });
  } catch (error) {
    if (error instanceof Unusable) fail(error.message, error.place);
    else if (error instanceof CommanderError) {
      if (error.exitCode === 0) return;
      fail(
        error.code === 'commander.help'
          ? 'name a command; `jolly-gate --help` lists them'
          : error.message.replace(/^error: /, ''),
      );
    } else
      fail(
        `this is a fault of Jolly Gate, not of what it was given: ${error instanceof Error ? error.message : String(error)}`,
      );
  }
}

process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  // The reader of a pipe went away: nothing more to say to it.
  if (error.code === 'EPIPE') process.exit(0);
  throw error;
});
await main(process.argv.slice(2));
