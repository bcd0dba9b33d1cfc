/** What is wrong with rows of an address plan. */
import type { PlanFault } from '#core/formats/address-plan';

export function planFaultText(fault: PlanFault): string {
  switch (fault.what) {
    case 'no-length':
      return `${fault.text} has no length: write /24 or a mask beside it`;
    case 'not-a-subnet':
      return `“${fault.text}” is no IPv4 subnet such as 10.61.20.0/24`;
    case 'not-a-mask':
      return `“${fault.text}” is no length from 1 to 32 and no mask`;
    case 'not-an-address':
      return `“${fault.text}” is no IPv4 address`;
    case 'not-a-tag':
      return `“${fault.text}” is no VLAN tag from 1 to 4094`;
    case 'not-a-pool':
      return `“${fault.text}” is no range such as 10.61.20.50-10.61.20.199 or 50-199`;
    case 'not-a-mac':
      return `“${fault.text}” is no MAC address of twelve digits`;
    case 'not-a-name':
      return `“${fault.text}” cannot be a name: up to 15 letters, digits and hyphens, a letter first`;
    case 'gateway-outside':
      return `the gateway ${fault.text} is not in ${fault.net}`;
    case 'pool-outside':
      return `the pool ${fault.text} is not in ${fault.net}`;
    case 'no-subnet':
      return 'there is no subnet in it';
    case 'no-address':
      return 'there is no address in it';
    case 'tag-twice':
      return `tag ${fault.text} is line ${fault.line}’s already`;
    case 'name-twice':
      return `the name ${fault.text} is line ${fault.line}’s already`;
    case 'subnet-twice':
      return `${fault.text} shares addresses with line ${fault.line}`;
    case 'mac-twice':
      return `its MAC address is line ${fault.line}’s already`;
    case 'address-twice':
      return `${fault.text} is line ${fault.line}’s already`;
  }
}
