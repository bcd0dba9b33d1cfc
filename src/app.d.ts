/// <reference types="@sveltejs/kit" />
declare module '*.gate?raw' {
  const text: string;
  export default text;
}
