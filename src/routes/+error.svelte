<script lang="ts">
  import { page } from '$app/state';
</script>

<main class="p-8">
  <h1 class="text-xl font-semibold">{page.status}: {page.error?.message}</h1>
  <p class="mt-2">
    Nothing of your sites is lost: they are kept in this browser. <a class="link" href="/"
      >Back to the board</a
    >
  </p>
</main>
