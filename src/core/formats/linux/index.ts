/** Linux's own reports, read into a box file. */
export { readLinuxBox } from './read';
export type { BoxRead, LinuxReports, ReportFault } from './read';
export { FORWARDING, deviceOf, linkLines, writeLinux } from './write';
export type { LinuxBox, LinuxOptions } from './write';
