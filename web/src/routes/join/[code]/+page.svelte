<script lang="ts">
  /** Where a link of a workshop's leads: in as somebody new, in with the account one has, or to a new password. */
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { onMount } from 'svelte';
  import { ApiError, client, take, wordsOf, type Schemas } from '$lib/api/client';
  import Secret from '$lib/people/Secret.svelte';
  import { session } from '$lib/state/session.svelte';

  let opens = $state.raw<Schemas['WelcomeOut'] | null>(null);
  let name = $state('');
  let password = $state('');
  let field = $state('');
  let trouble = $state('');
  const code = $derived(page.params.code ?? '');

  onMount(async () => {
    try {
      opens = await take(client.GET('/api/join/{code}', { params: { path: { code } } }));
    } catch (bad) {
      trouble = wordsOf(bad);
    }
  });
  async function enter(how: () => Promise<Schemas['SessionOut']>) {
    [field, trouble] = ['', ''];
    try {
      session.keep(await how());
      await goto('/bench');
    } catch (bad) {
      field = bad instanceof ApiError ? (bad.faults[0]?.field ?? '') : '';
      trouble = wordsOf(bad);
    }
  }
  const asNew = () =>
    enter(() => take(client.POST('/api/join/{code}', { params: { path: { code } }, body: { name, password } })));
  const asMe = () => enter(() => take(client.POST('/api/join/{code}/mine', { params: { path: { code } } })));
</script>

<svelte:head><title>Come in · Wimple</title></svelte:head>
<main class="mx-auto flex min-h-full max-w-[440px] flex-col justify-center px-5 py-8">
  {#if opens}
    <h1 class="text-[26px]!">{opens.renews ? 'A new password' : opens.workshop}</h1>
    <p class="text-quiet mt-1 mb-6 leading-snug">
      {opens.renews
        ? `For ${opens.renews} in ${opens.workshop}. You are signed out everywhere else.`
        : opens.role === 'viewer'
          ? 'You will see its jobs and its Shelf, and change nothing.'
          : `You will work here as ${opens.role}.`}
    </p>
    {#if session.current?.user && !opens.renews}
      <button class="button button-main mb-6 min-h-[40px]" onclick={asMe}>Go in as {session.current.user}</button>
      <p class="fine mb-3">Or with an account of its own for this workshop:</p>
    {/if}
    <form
      class="flex flex-col gap-3"
      onsubmit={(e) => {
        e.preventDefault();
        void asNew();
      }}
    >
      {#if !opens.renews}
        <label
          >Your name
          <input
            class="input"
            name="username"
            autocomplete="username"
            required
            maxlength="60"
            aria-invalid={field === 'name'}
            bind:value={name}
          />
          {#if field === 'name'}<span class="text-stop mt-1 block text-[14px]" role="alert">{trouble}</span>{/if}
        </label>
      {/if}
      <Secret
        label="Password"
        name="password"
        autocomplete="new-password"
        bind:value={password}
        trouble={field === 'password' ? trouble : ''}
      />
      {#if trouble && field !== 'name' && field !== 'password'}<p class="text-stop text-[14px]" role="alert">
          {trouble}
        </p>{/if}
      <button class="button mt-1 min-h-[40px] {session.current?.user && !opens.renews ? '' : 'button-main'}"
        >{opens.renews ? 'Set it and go in' : 'Come in'}</button
      >
    </form>
  {:else if trouble}
    <h1>This link leads nowhere</h1>
    <p class="mt-2 leading-snug">{trouble}</p>
    <p class="mt-4"><a class="link" href="/">To the start</a></p>
  {:else}<p class="fine">Opening …</p>{/if}
</main>
