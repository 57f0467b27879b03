<script lang="ts">
  import { goto } from '$app/navigation';
  import { untrack } from 'svelte';
  import { DropdownMenu } from 'bits-ui';
  import { client, take, takeAs, type Schemas, type Ticket } from '$lib/api/client';
  import { startWork, Task } from '$lib/api/work.svelte';
  import { Paged } from '$lib/state/paged.svelte';
  import { STEP_NAMES, type Step } from '$lib/state/steps';
  import { session } from '$lib/state/session.svelte';
  import { KINDS } from '$lib/steps/measure/kinds';
  import { day } from '$lib/ui/day';
  import Glyph from '$lib/ui/Glyph.svelte';
  import Outline from '$lib/ui/Outline.svelte';
  import Places from '$lib/ui/Places.svelte';

  type StartKind = NonNullable<Schemas['NewJob']['kind']>;
  let q = $state('');
  type Page = { total: number; tickets: Ticket[] };
  const list = new Paged<Ticket>(async (start) => {
    const page = await takeAs<Page>(client.GET('/api/jobs', { params: { query: { q, start } } }));
    return { total: page.total, rows: page.tickets };
  });
  const writing = new Task();
  // Tickets that are not written yet are, and read again when they are.
  $effect(() => {
    if (list.rows?.some((t) => t.worst === null) && !list.trouble) untrack(() => void write());
  });
  async function write() {
    if (!writing.busy && (await writing.run(() => startWork({ kind: 'tickets', key: '' })))) await list.load();
  }
  // Read again when the workshop writes its lengths another way: the sentences hold figures.
  $effect(() => {
    if (session.style) untrack(() => void list.load());
  });
  async function start(kind: StartKind, name: string) {
    const job = await take(client.POST('/api/jobs', { body: { title: `New ${name}`, kind } }));
    await goto(`/jobs/${job.id}/measure`);
  }
  const OTHERS = KINDS.filter(([kind]) => !['cup', 'panel', 'mesh'].includes(kind)) as [StartKind, string][];
  async function drop(t: Ticket) {
    if (!confirm(`Take “${t.title}” off the Bench for good?`)) return;
    await take(client.DELETE('/api/jobs/{job_id}', { params: { path: { job_id: t.id } } }));
    await list.load();
  }
</script>

<svelte:head><title>Bench · Wimple</title></svelte:head>
<header class="border-edge bg-steel flex h-[72px] items-center justify-between border-b px-5">
  <div>
    <h1>Bench</h1>
    <p class="fine">{session.current?.workshop?.name}</p>
  </div>
  <Places />
</header>
<main class="h-[calc(100%-72px)] overflow-y-auto px-5 py-5">
  <div class="mb-4 flex flex-wrap items-center gap-2">
    {#if session.makes}
      <button class="button button-main" onclick={() => start('cup', 'cup')}>New cup</button>
      <button class="button" onclick={() => start('panel', 'panel')}>New flat panel</button>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger class="button">Another blank …</DropdownMenu.Trigger>
        <DropdownMenu.Content
          class="bg-sheet border-edge z-10 min-w-[230px] rounded-[3px] border py-1"
          sideOffset={4}
          align="start"
        >
          {#each OTHERS as [kind, name] (kind)}
            <DropdownMenu.Item
              class="data-highlighted:bg-wash cursor-pointer px-3 py-1.5"
              onSelect={() => start(kind, name)}>{name}</DropdownMenu.Item
            >
          {/each}
        </DropdownMenu.Content>
      </DropdownMenu.Root>
      <a class="link ml-1" href="/shelf">from the Shelf</a>
    {/if}
    <label class="ml-auto flex items-center gap-2"
      ><span class="fine">{list.total} job{list.total === 1 ? '' : 's'}{q ? ' found' : ''}</span>
      <input
        class="input w-[220px]!"
        type="search"
        placeholder="title or customer"
        aria-label="Find a job"
        bind:value={q}
        oninput={() => list.later()}
      /></label
    >
  </div>
  {#if list.trouble}<p class="text-stop" role="alert">{list.trouble}</p>{/if}
  {#if list.rows && !list.rows.length && q}
    <p>No job has “{q}” in its title or customer.</p>
  {:else if list.rows && !list.rows.length}
    <p class="max-w-[520px] leading-snug">
      Nothing on the bench. Take a cup, a tape measure and a ruler, and start with “New cup”: it opens with an example
      to type over.
    </p>
  {/if}
  <ul class="grid grid-cols-[repeat(auto-fill,minmax(min(370px,100%),1fr))] gap-4">
    {#each list.rows ?? [] as t (t.id)}
      <li class="border-hairline bg-sheet relative rounded-[3px] border">
        <a href="/jobs/{t.id}/measure" class="block p-3">
          <Outline outline={t.outline} bounds={t.bounds} paints={t.paints} class="mb-3 h-[230px] w-full" />
          <span class="block truncate pr-8 text-[17px] font-[650]">{t.title} × {t.quantity}</span>
          <span class="fine block truncate"
            >{t.customer || 'no customer'} · {t.due ? `due ${day(t.due)}` : 'no due date'}</span
          >
          <span class="mt-2 flex items-start gap-2 text-[14px] leading-snug"
            >{#if t.worst}<span class="mt-[3px] flex"><Glyph level={t.worst} /></span>{/if}<span
              class="line-clamp-2 min-h-[39px]"
              >{t.worst ? `${STEP_NAMES[t.step as Step]}: ${t.sentence}` : 'being looked through …'}</span
            ></span
          >
        </a>
        {#if session.makes}<button
            class="text-quiet hover:text-stop absolute top-2 right-2 size-7"
            aria-label="Take {t.title} off the Bench"
            onclick={() => drop(t)}>×</button
          >{/if}
      </li>
    {/each}
  </ul>
  {#if list.more}
    <button class="button mt-4" onclick={() => list.next()}>More of {list.total}</button>
  {/if}
</main>
