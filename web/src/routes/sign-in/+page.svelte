<script lang="ts">
  import { goto } from '$app/navigation';
  import Secret from '$lib/people/Secret.svelte';
  import { session } from '$lib/state/session.svelte';

  let username = $state('');
  let password = $state('');
  // A browser in a shop is mostly that shop's.
  const REMEMBERED = 'wimple.workshop';
  let workshop = $state(localStorage.getItem(REMEMBERED) ?? '');
  async function signIn() {
    await session.signIn(username, password, workshop);
    localStorage.setItem(REMEMBERED, workshop);
  }
  let trouble = $state('');
  let busy = $state(false);

  async function enter(how: () => Promise<void>) {
    busy = true;
    trouble = '';
    try {
      await how();
      await goto('/bench');
    } catch (bad) {
      trouble = bad instanceof Error ? bad.message : String(bad);
    } finally {
      busy = false;
    }
  }
</script>

<svelte:head><title>Sign in · Wimple</title></svelte:head>
<main class="grid h-full grid-cols-[minmax(340px,440px)_1fr]">
  <section class="border-edge flex flex-col justify-center border-r px-12">
    <h1 class="text-[34px]!">Wimple</h1>
    <p class="text-quiet mt-1 mb-8 leading-snug">
      Measures the cup, unwraps it, lays the drawing on it and cuts layers that fit.
    </p>
    {#if session.current?.demo}
      <button
        class="button button-main mb-1 min-h-[40px]"
        disabled={busy}
        onclick={() => enter(() => session.enterDemo())}>Enter the demo workshop</button
      >
      <p class="fine mb-8">Fernhallow Decals, with its jobs under way. Nothing there is real.</p>
    {/if}
    <form
      class="flex flex-col gap-3"
      onsubmit={(e) => {
        e.preventDefault();
        void enter(signIn);
      }}
    >
      <label>Name <input class="input" name="username" autocomplete="username" required bind:value={username} /></label>
      <Secret label="Password" name="password" autocomplete="current-password" bind:value={password} />
      <label
        >Workshop <span class="fine">short name, if several are here</span>
        <input class="input" name="workshop" autocomplete="organization" bind:value={workshop} /></label
      >
      {#if trouble}<p class="text-stop text-[14px]" role="alert">{trouble}</p>{/if}
      <button class="button {session.current?.demo ? '' : 'button-main'} mt-1 min-h-[40px]" disabled={busy}
        >Sign in</button
      >
    </form>
  </section>
  <section class="bg-sheet flex items-center justify-center overflow-hidden" aria-hidden="true">
    <svg viewBox="-150 -120 300 250" class="h-[78%] w-[82%]" fill="none" stroke="var(--color-blue)" stroke-width="0.7">
      <path
        d="M-131 -57A438 438 0 0 1 131 -57L102.500 39A342 342 0 0 0 -102.500 39Z"
        transform="translate(0 -22)"
        stroke="var(--color-ink)"
        stroke-width="1.1"
      />
      <path d="M0 -100V70" stroke="var(--color-quiet)" stroke-dasharray="9 2 2 2" />
      <path d="M-42 66L-33 118H33L42 66Z" stroke="var(--color-ink)" stroke-width="1.1" />
      <path d="M-42 60H42M-42 57v6M42 57v6M-33 124H33M-33 121v6M33 121v6M52 66L43 118" />
    </svg>
  </section>
</main>
