import { check } from '../../finding';
import { boxPlace, boxSubject } from '../../queries';

/** The box still has the password it came with; the text cannot know, so the box was asked. */
export const firstPassword = check({
  code: 'first-password',
  *run({ site, observed }) {
    const place = boxPlace(site);
    if (place && observed.factoryPassword)
      yield { statement: place, subject: boxSubject(site), values: { name: site.box?.name ?? 'the box' } };
  },
});
