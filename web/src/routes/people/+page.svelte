<script lang="ts">
  /** Who works here and as what, and the links that let somebody in. */
  import { onMount } from 'svelte';
  import { client, take, wordsOf, type Schemas } from '$lib/api/client';
  import { session } from '$lib/state/session.svelte';
  import { moment } from '$lib/ui/day';
  import Places from '$lib/ui/Places.svelte';

  type Role = Schemas['MemberOut']['role'];
  const ROLES: [Role, string][] = [
    ['owner', 'owner: all of it, and people'],
    ['maker', 'maker: jobs, files, the Shelf'],
    ['viewer', 'viewer: looks, carries files out'],
  ];
  let people = $state.raw<Schemas['PeopleOut'] | null>(null);
  let trouble = $state('');
  let role = $state<Role>('maker');
  let note = $state('');
  let link = $state('');
  let linkFor = $state('');
  let copied = $state(false);

  async function doing(what: () => Promise<unknown>) {
    trouble = '';
    try {
      await what();
    } catch (bad) {
      trouble = wordsOf(bad);
    }
    try {
      people = await take(client.GET('/api/people'));
      if (!people.members.some((m) => m.me && m.role === 'owner')) await session.load();
    } catch (bad) {
      trouble ||= wordsOf(bad);
    }
  }
  onMount(() => doing(async () => undefined));

  const at = (member_id: number) => ({ params: { path: { member_id } } });
  const give = (m: Schemas['MemberOut'], role: Role) =>
    doing(() => take(client.PATCH('/api/people/{member_id}', { ...at(m.id), body: { role } })));
  const remove = (m: Schemas['MemberOut']) =>
    confirm(`Take ${m.name} out of ${session.current?.workshop?.name}? What they made stays.`) &&
    doing(() => take(client.DELETE('/api/people/{member_id}', at(m.id))));
  function show(made: Schemas['InvitationOut'], whom: string) {
    [link, linkFor, copied] = [`${location.origin}/join/${made.code}`, whom, false];
  }
  const renew = (m: Schemas['MemberOut']) =>
    doing(async () =>
      show(await take(client.POST('/api/people/{member_id}/password', at(m.id))), `${m.name}’s new password`),
    );
  const invite = () =>
    doing(async () => {
      show(await take(client.POST('/api/invitations', { body: { role, note } })), note || `a ${role}`);
      note = '';
    });
  const withdraw = (invitation_id: number) =>
    doing(() => take(client.DELETE('/api/invitations/{invitation_id}', { params: { path: { invitation_id } } })));
  async function copy() {
    await navigator.clipboard.writeText(link);
    copied = true;
  }
</script>

<svelte:head><title>People · Wimple</title></svelte:head>
<header class="border-edge bg-steel flex h-[72px] items-center justify-between border-b px-5">
  <div class="min-w-0">
    <h1>People</h1>
    <p class="fine truncate">{session.current?.workshop?.name} · signs in as …@{session.current?.workshop?.short}</p>
  </div>
  <Places />
</header>
<main class="grid h-[calc(100%-72px)] grid-cols-1 gap-x-12 gap-y-8 overflow-y-auto px-5 py-6 lg:grid-cols-[1fr_400px]">
  <section class="min-w-0 overflow-x-auto">
    {#if trouble}<p class="text-stop mb-3" role="alert">{trouble}</p>{/if}
    {#if people}
      <table class="w-full border-collapse text-left">
        <caption class="mb-2 text-left text-[14px] font-[650]">Who works here</caption>
        <thead class="fine border-edge border-b">
          <tr
            ><th class="py-1 font-normal">Name</th><th class="font-normal">May</th><th class="font-normal">Since</th><th
              ><span class="sr-only">Do</span></th
            ></tr
          >
        </thead>
        <tbody>
          {#each people.members as m (m.id)}
            <tr class="border-hairline border-b">
              <td class="max-w-[220px] py-2 pr-4"
                ><span class="block truncate font-[650]">{m.name}{m.me ? ' (you)' : ''}</span><span
                  class="fine block truncate">{m.account}</span
                ></td
              >
              <td class="pr-4"
                ><select
                  class="input min-w-[200px] max-w-[270px]"
                  aria-label="What {m.name} may do"
                  value={m.role}
                  onchange={(e) => give(m, (e.target as HTMLSelectElement).value as Role)}
                >
                  {#each ROLES as [id, words] (id)}<option value={id}>{words}</option>{/each}
                </select></td
              >
              <td class="fine pr-4 whitespace-nowrap">{moment(m.since)}</td>
              <td class="text-right whitespace-nowrap">
                {#if !m.me}<button class="link mr-3 text-[13px]" onclick={() => renew(m)}>New password</button>{/if}
                <button class="link text-[13px]" aria-label="Take out {m.name}" onclick={() => remove(m)}
                  >Take out</button
                >
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    {:else if !trouble}<p class="fine">Opening …</p>{/if}
  </section>
  <section class="flex flex-col gap-3">
    <h2>Let somebody in</h2>
    <form
      class="flex flex-col gap-3"
      onsubmit={(e) => {
        e.preventDefault();
        void invite();
      }}
    >
      <label
        >They may
        <select class="input" bind:value={role}>
          {#each ROLES as [id, words] (id)}<option value={id}>{words}</option>{/each}
        </select></label
      >
      <label
        >For whom <input
          class="input"
          maxlength="60"
          placeholder="so that you know it again"
          bind:value={note}
        /></label
      >
      <button class="button button-main self-start">Make a link</button>
    </form>
    <p class="fine leading-snug">
      The link lets one person in, once, within a week. They choose their own password, or come with the account they
      have.
    </p>
    {#if link}
      <div class="border-brass border-l-2 pl-3" role="status">
        <p class="text-[14px] leading-snug">For {linkFor}. It is shown only now: hand it over yourself.</p>
        <div class="mt-1 flex gap-2">
          <input
            class="input text-[13px]"
            aria-label="The link"
            readonly
            value={link}
            onfocus={(e) => e.currentTarget.select()}
          />
          <button class="button shrink-0" onclick={copy}>{copied ? 'Copied' : 'Copy'}</button>
        </div>
      </div>
    {/if}
    {#if people?.invitations.length}
      <h2 class="mt-3">Links not used yet</h2>
      <ul>
        {#each people.invitations as i (i.id)}
          <li class="border-hairline flex items-baseline justify-between gap-3 border-b py-2">
            <span class="min-w-0"
              ><span class="block truncate">{i.note || `a ${i.role}`}{i.renews ? ': new password' : ''}</span><span
                class="fine block">{i.role}, until {moment(i.ends)}</span
              ></span
            >
            <button class="link text-[13px] whitespace-nowrap" onclick={() => withdraw(i.id)}>Make it void</button>
          </li>
        {/each}
      </ul>
    {/if}
  </section>
</main>
