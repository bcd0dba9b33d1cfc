/** Linux's own reports, read into a box file. */
export { readLinuxBox } from './read';
export type { BoxRead, LinuxReports, ReportFault } from './read';
