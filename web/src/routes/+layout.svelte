<script lang="ts">
  import '../app.css';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { onMount, type Snippet } from 'svelte';
  import { session } from '$lib/state/session.svelte';

  let { children }: { children: Snippet } = $props();
  let ready = $state(false);
  let trouble = $state('');
  onMount(async () => {
    try {
      await session.load();
      const outside = page.url.pathname === '/sign-in';
      if (!session.current?.user && !outside && !page.url.pathname.startsWith('/join/'))
        await goto('/sign-in', { replaceState: true });
      if (session.current?.user && (outside || page.url.pathname === '/')) await goto('/bench', { replaceState: true });
      ready = true;
    } catch (bad) {
      trouble = bad instanceof Error ? bad.message : String(bad);
    }
  });
</script>

{#if ready}
  {@render children()}
  {#if session.current?.warning}
    <p role="status" class="fixed inset-x-0 bottom-0 z-50 bg-look-ink px-4 py-1 text-center text-sheet">
      {session.current.warning}
    </p>
  {/if}
{:else if trouble}<main class="p-8">
    <h1>Not there just now</h1>
    <p class="mt-2">{trouble} <button class="link" onclick={() => location.reload()}>Try again</button></p>
  </main>
{:else}<main class="p-8"><p class="fine">Opening …</p></main>{/if}
