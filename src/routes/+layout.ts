// The application lives in the browser: nothing of a site is ever sent to the server.
export const ssr = false;
export const prerender = false;
