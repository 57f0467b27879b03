<script lang="ts">
  /** The colours of film that the workshop has: what colours of a drawing are measured against. */
  import { Dialog } from 'bits-ui';
  import { wordsOf } from '../api/client';
  import { session } from '../state/session.svelte';
  import { tables, type FilmColour } from '../state/tables.svelte';

  let { film: first, onclose }: { film: string; onclose: (changed: boolean) => void } = $props();
  // svelte-ignore state_referenced_locally
  let film = $state(first);
  let trouble = $state('');
  let changed = false;
  const rows = $derived(tables.colours.map((c, n) => ({ c, n })).filter((r) => r.c.film === film));
  const count = (id: string) => tables.colours.filter((c) => c.film === id).length;

  async function keep(colours: FilmColour[]) {
    trouble = '';
    try {
      await tables.keepColours(colours);
      changed = true;
    } catch (bad) {
      trouble = wordsOf(bad);
    }
  }
  const change = (n: number, to: Partial<FilmColour>) =>
    keep(tables.colours.map((c, k) => (k === n ? { ...c, ...to } : c)));
  const add = () => keep([...tables.colours, { film, name: 'new colour', colour: '#808790' }]);
</script>

<Dialog.Root open onOpenChange={(o) => !o && onclose(changed)}>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 bg-black/30" />
    <Dialog.Content
      class="bg-sheet border-edge fixed top-1/2 left-1/2 flex max-h-[86vh] w-[620px] max-w-[96vw] -translate-x-1/2 -translate-y-1/2 flex-col rounded-[3px] border p-6"
    >
      <Dialog.Title class="text-[19px] font-[650]">Films at hand</Dialog.Title>
      <Dialog.Description class="fine mb-3"
        >Colours of a drawing are held against these; what none of them comes near is said.</Dialog.Description
      >
      <fieldset disabled={!session.makes} class="flex min-h-0 flex-col">
        <div class="mb-2 flex items-center gap-2">
          <label class="fine" for="film-at-hand">Colours of</label>
          <select id="film-at-hand" class="input w-[300px]!" bind:value={film}>
            {#each tables.films as f (f.id)}<option value={f.id}>{f.name} · {count(f.id)}</option>{/each}
          </select>
          <span class="grow"></span>
          <button class="button" onclick={add}>Add one</button>
        </div>
        {#if trouble}<p class="text-stop mb-2 text-[13px]" role="alert">{trouble}</p>{/if}
        <ul class="grid min-h-0 grid-cols-2 gap-x-5 overflow-y-auto" aria-label="Colours at hand">
          {#each rows as { c, n } (n)}
            <li class="border-hairline flex min-h-10 items-center gap-2 border-b">
              <input
                type="color"
                class="border-edge h-7 w-9 border"
                aria-label="Colour of {c.name}"
                value={c.colour}
                onchange={(e) => change(n, { colour: e.currentTarget.value })}
              />
              <input
                class="input min-w-0 flex-1"
                aria-label="Name of {c.name}"
                value={c.name}
                maxlength="40"
                onchange={(e) => {
                  if (e.currentTarget.value.trim()) void change(n, { name: e.currentTarget.value.trim() });
                  else e.currentTarget.value = c.name;
                }}
              />
              <button
                class="text-quiet hover:text-stop size-7"
                aria-label="Take {c.name} off"
                onclick={() => keep(tables.colours.filter((_, k) => k !== n))}>×</button
              >
            </li>
          {:else}<li class="col-span-2 py-2">None of this film: nothing drawn can be cut from it as it is.</li>{/each}
        </ul>
      </fieldset>
      <div class="mt-4 flex justify-end"><button class="button" onclick={() => onclose(changed)}>Done</button></div>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
