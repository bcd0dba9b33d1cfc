/**
 * A generation as one script: it puts the hinge and the generation where they belong and has them applied. All of it is
 * one function that the last line calls, so that a script that was cut anywhere does nothing at all.
 */
import { oneLine } from '#core/notation';
import { streamOf } from './generation';
import type { Generation } from './generation';

/** `hinge` is the text of the hinge; `notes` are said at the top. */
export function scriptOf(
  generation: Generation,
  hinge: string,
  name: string,
  notes: readonly string[] = [],
): string {
  const end = `END-${generation.id}`;
  return `#!/bin/sh
# ${oneLine(name)}, for a Linux box: needs iproute2 and nftables.
${notes.map((n) => `# ${oneLine(n)}\n`).join('')}# Run it as root, as often as you like. The rules come in first and forwarding is turned on last; where anything fails,
# what ran before runs again. At the next start of the box nothing of it is left, unless \`$hinge save\` keeps it.
main() {
  set -eu
  umask 077
  hinge=\${JG_HINGE:-/usr/local/sbin/jolly-gate-hinge}
  mkdir -p "\${hinge%/*}"
  cat >"$hinge.new" <<'${end}'
${hinge}${end}
  chmod 755 "$hinge.new"
  mv "$hinge.new" "$hinge"
  "$hinge" stage ${generation.id} <<'${end}'
${streamOf(generation)}${end}
  "$hinge" apply ${generation.id}
}
main
`;
}
