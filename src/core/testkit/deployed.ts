/** What of a generation a kernel alone can be asked about. */
import type { Generation } from '#core/linux';

const DAEMONS = /^(kea4|active|keepalived|unbound|chrony|ulogd|ppp|network)/;

/** A generation without its daemons, as the active one of two boxes has it: what they share is its own. */
export function withoutDaemons(g: Generation): Generation {
  const text = (name: string): string => g.files.find((f) => f.name === name)?.text ?? '';
  const whole: Readonly<Record<string, string>> = {
    addresses: text('addresses') + text('shared'),
    shared: '',
  };
  return {
    ...g,
    files: g.files
      .filter((f) => !DAEMONS.test(f.name))
      .map((f) => ({ name: f.name, text: whole[f.name] ?? f.text })),
  };
}
