/** `live`: a real Linux router, told, asked and kept over ssh. */
import type { Command } from 'commander';
import { answering, collect, quiet } from '../command';
import type { CommandResult } from '../outcome';
import { prove, why } from './ladder';
import { adopt, drift, log, meet, state } from './look';
import type { AdoptOptions } from './look';
import { again, back, extend, save, stay, tryOut } from './trial';
import type { LiveOptions } from './connect';
import type { TryOptions } from './trial';

/** Adds the commands to the root. */
export function addLive(root: Command, report: (outcome: CommandResult, json: boolean) => void): void {
  const live = quiet(root.command('live').description('a real Linux router, told, asked and kept over ssh'));
  const command = (spec: string, description: string) =>
    answering(live, spec, description).option(
      '--ssh-config <file>',
      'a configuration of ssh instead of your own',
    );
  const tell = async (outcome: Promise<CommandResult>, o: LiveOptions) => report(await outcome, !!o.json);

  command('meet <target>', 'what the box is: ports with their lamps, addresses, who else configures it')
    .option('--accept-key <fingerprint>', 'the host key that the console of the box shows')
    .action((target: string, o: LiveOptions & { acceptKey?: string }) => tell(meet(target, o), o));
  command('adopt <target>', 'a box file of what the box is, and what could not be taken')
    .option('--take <devices>', 'have these handed over by whoever configures them, once ours runs (a,b)')
    .option('--with-secrets', 'keep the secrets of logins, which are left out otherwise')
    .action((target: string, o: AdoptOptions) => tell(adopt(target, o), o));
  command('state <target>', 'what the box knows: lamps, leases, routes, hits of every statement').action(
    (target: string, o: LiveOptions) => tell(state(target, o), o),
  );
  command('try <target> <files...>', 'puts the files on trial: the box goes back by itself unless you stay')
    .option('--seconds <n>', 'how long the trial lasts; proposed where absent')
    .option('--stay-if <what>', '`proven`: stay without asking if a new connection and an uplink are proven')
    .option(
      '--overrule <code>',
      'an error, `others` or `lockout`, that does not hinder (may repeat)',
      collect,
      [],
    )
    .option('--seat <station>', 'where you sit; where your connection comes from, where absent')
    .option('--name <name>', 'a name to resolve at the ladder')
    .action((target: string, files: string[], o: TryOptions) => tell(tryOut(target, files, o), o));
  command('stay <target>', 'what is on trial runs on').action((target: string, o: LiveOptions) =>
    tell(stay(target, o), o),
  );
  command('extend <target> <seconds>', 'gives the trial more time').action(
    (target: string, seconds: string, o: LiveOptions) => tell(extend(target, seconds, o), o),
  );
  command('back <target>', 'what ran before the trial runs again').action((target: string, o: LiveOptions) =>
    tell(back(target, o), o),
  );
  command('save <target>', 'the box starts with what runs').action((target: string, o: LiveOptions) =>
    tell(save(target, o), o),
  );
  command('again <target>', 'tells the box once more what it runs, where somebody changed it by hand').action(
    (target: string, o: LiveOptions) => tell(again(target, o), o),
  );
  command('prove <target> [files...]', 'climbs the ladder of every uplink on the box itself')
    .option('--name <name>', 'a name to resolve')
    .action((target: string, files: string[], o: LiveOptions & { name?: string }) =>
      tell(prove(target, files, o), o),
    );
  command('why <target> <from> <to> [service] [files...]', 'follows one real packet through the rules')
    .option('--wait <seconds>', 'how long to wait for it', '10')
    .action(
      (
        target: string,
        from: string,
        to: string,
        service: string | undefined,
        files: string[],
        o: LiveOptions & { wait: string },
      ) => tell(why(target, from, to, service, files, o), o),
    );
  command('log <target>', 'what the box did, and what statements logged')
    .option('--lines <n>', 'how many lines', '200')
    .action((target: string, o: LiveOptions & { lines: string }) => tell(log(target, o), o));
  command('drift <target>', 'what somebody changed behind our back').action(
    (target: string, o: LiveOptions) => tell(drift(target, o), o),
  );
}
