import adapter from '@sveltejs/adapter-node';

/** @type {import('@sveltejs/kit').Config} */
export default {
  compilerOptions: {
    runes: ({ filename }) => (filename.includes('node_modules') ? undefined : true),
  },
  kit: {
    // The page comes from this machine: packing it costs more, at every start of the demo, than it ever saves.
    adapter: adapter({ out: 'build/page', precompress: false }),
    csp: {
      mode: 'auto',
      directives: {
        'default-src': ['self'],
        'script-src': ['self'],
        'style-src': ['self'],
        'style-src-attr': ['unsafe-inline'],
        'worker-src': ['self'],
        'img-src': ['self', 'data:', 'blob:'],
        'object-src': ['none'],
        'base-uri': ['self'],
        'frame-ancestors': ['none'],
      },
    },
  },
};
