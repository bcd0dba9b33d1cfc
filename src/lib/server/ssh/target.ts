/** Whom to call: what an administrator types behind `ssh`. */

export interface Target {
  readonly user?: string;
  readonly host: string;
  readonly port?: number;
}

/** Reads `[USER@]HOST[:PORT]`, an IPv6 address in brackets; undefined for what could mean something else to a shell. */
export function readTarget(text: string): Target | undefined {
  const m =
    /^(?:([A-Za-z_][A-Za-z0-9_.-]*)@)?(?:\[([0-9A-Fa-f:.]+(?:%[\w.-]+)?)\]|([A-Za-z0-9_][A-Za-z0-9_.-]*))(?::(\d{1,5}))?$/.exec(
      text,
    );
  const port = m?.[4] === undefined ? undefined : Number(m[4]);
  if (!m || (port !== undefined && (port < 1 || port > 65535))) return undefined;
  return { user: m[1], host: (m[2] ?? m[3])!, port };
}

/** The target as it is told to a person. */
export const targetText = ({ user, host, port }: Target): string =>
  `${user === undefined ? '' : `${user}@`}${host.includes(':') ? `[${host}]` : host}${port === undefined ? '' : `:${port}`}`;
