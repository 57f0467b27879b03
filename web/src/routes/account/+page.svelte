<script lang="ts">
  /** One's own account: a new password, and signing out everywhere. */
  import { goto } from '$app/navigation';
  import { ApiError, wordsOf } from '$lib/api/client';
  import Secret from '$lib/people/Secret.svelte';
  import { session } from '$lib/state/session.svelte';
  import Places from '$lib/ui/Places.svelte';

  let old = $state('');
  let fresh = $state('');
  let field = $state('');
  let trouble = $state('');
  let done = $state(false);

  async function change() {
    [field, trouble, done] = ['', '', false];
    try {
      await session.changePassword(old, fresh);
      [old, fresh, done] = ['', '', true];
    } catch (bad) {
      field = bad instanceof ApiError ? (bad.faults[0]?.field ?? '') : '';
      trouble = wordsOf(bad);
    }
  }
  async function outEverywhere() {
    try {
      await session.signOutEverywhere();
      await goto('/sign-in');
    } catch (bad) {
      [field, trouble] = ['', wordsOf(bad)];
    }
  }
</script>

<svelte:head><title>Password and sessions · Wimple</title></svelte:head>
<header class="border-edge bg-steel flex h-[72px] items-center justify-between border-b px-5">
  <div>
    <h1>Password and sessions</h1>
    <p class="fine">{session.current?.account}</p>
  </div>
  <Places />
</header>
<main class="grid max-w-[980px] grid-cols-1 gap-x-16 gap-y-8 px-5 py-6 md:grid-cols-2">
  <form
    class="flex flex-col gap-3"
    onsubmit={(e) => {
      e.preventDefault();
      void change();
    }}
  >
    <h2>Another password</h2>
    <Secret
      label="Password now"
      name="old"
      autocomplete="current-password"
      bind:value={old}
      trouble={field === 'old' ? trouble : ''}
    />
    <Secret
      label="New password"
      name="new"
      autocomplete="new-password"
      bind:value={fresh}
      trouble={field === 'password' ? trouble : ''}
    />
    {#if trouble && !field}<p class="text-stop text-[14px]" role="alert">{trouble}</p>{/if}
    {#if done}<p class="text-ok text-[14px]" role="status">Changed. You are signed out everywhere else.</p>{/if}
    <button class="button button-main self-start">Change the password</button>
  </form>
  <section class="flex flex-col gap-3">
    <h2>Where you are signed in</h2>
    <p class="leading-snug">
      You stay signed in while you work, and for two weeks after. If a computer you signed in on is lost or is not
      yours, sign out of all of them here.
    </p>
    <button class="button self-start" onclick={outEverywhere}>Sign out everywhere</button>
  </section>
</main>
