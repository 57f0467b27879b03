<script lang="ts">
  import { page } from '$app/state';
</script>

<main class="p-8">
  <h1>There is nothing here</h1>
  <p class="mt-2">{page.error?.message ?? ''} Go back to the <a class="link" href="/bench">Bench</a>.</p>
</main>
