import { readFileSync } from 'node:fs';
import { siteFrom, comparePromises } from '#core/testkit';
console.log(comparePromises(siteFrom(readFileSync('/tmp/t2.gate','utf8'))));
