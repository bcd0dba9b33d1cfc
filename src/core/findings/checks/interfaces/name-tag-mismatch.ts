import { changeClauses } from '#core/edits';
import { check } from '../../finding';

/** An interface whose name says one tag and whose tag is another. */
export const nameTagMismatch = check({
  code: 'name-tag-mismatch',
  *run({ site }) {
    for (const iface of site.interfaces) {
      const said = /^(?:vlan|vl|tag)-?([1-9][0-9]{0,3})$/.exec(iface.name)?.[1];
      if (said === undefined || iface.tag === undefined || Number(said) === iface.tag) continue;
      const tag = iface.statement.carrier?.tag;
      yield {
        statement: iface.statement,
        at: tag?.at,
        values: { name: iface.name, said, tag: String(iface.tag) },
        mends: tag
          ? [
              {
                what: 'use-tag',
                values: { tag: said },
                changes: changeClauses(site, iface.statement, [
                  { do: 'replace', start: tag.at.start, end: tag.at.end, text: said },
                ]),
              },
            ]
          : [],
      };
    }
  },
});
