<script lang="ts">
  /** One kept blank, whole: its drawing, readings, note, tags and picture, and what can be done with it. */
  import { Dialog } from 'bits-ui';
  import { client, take, takeAs, fileForm, wordsOf, type Schemas } from '../api/client';
  import { session } from '../state/session.svelte';
  import { kindName } from '../steps/measure/kinds';
  import { lengthText, unitOf } from '../units';
  import { day } from '../ui/day';
  import FilePick from '../ui/FilePick.svelte';
  import Outline from '../ui/Outline.svelte';

  type Blank = Schemas['BlankOut'];
  let {
    blank,
    onclose,
    onshow,
    onstart,
  }: {
    blank: Blank;
    onclose: () => void;
    onshow: (next: Blank) => void;
    onstart: (id: number, name: string) => Promise<void>;
  } = $props();
  let trouble = $state('');
  let sure = $state(false);
  let picker: FilePick;
  const at = $derived({ params: { path: { blank_id: blank.id } } });
  /** Every dimension in it with its readings, found by their shape. */
  const readings = $derived.by(() => {
    const out: [string, string, number[]][] = [];
    const walk = (v: unknown, path: string[]) => {
      if (!v || typeof v !== 'object') return;
      const d = v as { reads?: string; readings?: number[] };
      if (typeof d.reads === 'string' && Array.isArray(d.readings)) out.push([path.join(' '), d.reads, d.readings]);
      else
        for (const [k, x] of Object.entries(v as object))
          walk(x, [...path, /^\d+$/.test(k) ? String(Number(k) + 1) : k.replace(/_/g, ' ').replace(/s$/, '')]);
    };
    walk(blank.blank, []);
    return out;
  });

  async function run(work: () => Promise<void>) {
    trouble = '';
    try {
      await work();
    } catch (bad) {
      trouble = wordsOf(bad);
    }
  }
  const change = (body: Schemas['ChangeIn']) =>
    run(async () => onshow(await takeAs<Blank>(client.PATCH('/api/shelf/{blank_id}', { ...at, body }))));
  const copy = () => run(async () => onshow(await takeAs<Blank>(client.POST('/api/shelf/{blank_id}/copy', at))));
  const drop = () =>
    run(async () => {
      await take(client.DELETE('/api/shelf/{blank_id}', at));
      onclose();
    });
  const picture = async (file: File) =>
    onshow(await takeAs<Blank>(client.POST('/api/shelf/{blank_id}/picture', { ...at, ...fileForm(file) })));
</script>

<Dialog.Root open onOpenChange={(o) => !o && onclose()}>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 bg-black/30" />
    <Dialog.Content
      class="bg-sheet border-edge fixed top-1/2 left-1/2 flex max-h-[92vh] w-[820px] -translate-x-1/2 -translate-y-1/2 flex-col rounded-[3px] border p-6"
    >
      <Dialog.Title class="truncate text-[19px] font-[650]">{blank.name}</Dialog.Title>
      <Dialog.Description class="fine mb-3">
        {kindName(blank.kind)} · {blank.size} · used by {blank.jobs} job{blank.jobs === 1 ? '' : 's'} · changed {day(
          blank.changed.slice(0, 10),
        )}
      </Dialog.Description>
      <fieldset disabled={!session.makes} class="grid min-h-0 grid-cols-[300px_1fr] gap-6 overflow-y-auto">
        <div>
          {#key blank.has_picture}
            {#if blank.has_picture}
              <img
                class="border-hairline h-[200px] w-full border object-contain"
                src="/api/shelf/{blank.id}/picture?{blank.changed}"
                alt="The blank"
              />
            {/if}
          {/key}
          <Outline outline={blank.outline} bounds={blank.bounds} fill={blank.colour} class="mt-2 h-[190px] w-full" />
          {#if session.makes}
            <button class="link mt-1 text-[13px]" onclick={() => picker.pick()}
              >{blank.has_picture ? 'another picture' : 'give it a picture'}</button
            >
          {/if}
          <FilePick bind:this={picker} accept="image/*" label="Picture of the blank" onfile={picture} bind:trouble />
        </div>
        <div>
          <label class="block">
            Called
            <input
              class="input mt-1"
              value={blank.name}
              maxlength="120"
              onchange={(e) => change({ name: (e.target as HTMLInputElement).value || blank.name })}
            />
          </label>
          <label class="mt-2 block">
            Tags, with commas between
            <input
              class="input mt-1"
              value={blank.tags.join(', ')}
              onchange={(e) => change({ tags: (e.target as HTMLInputElement).value.split(',').slice(0, 20) })}
            />
          </label>
          <label class="mt-2 block">
            Note
            <textarea
              class="input mt-1 min-h-16"
              maxlength="4000"
              value={blank.note}
              onchange={(e) => change({ note: (e.target as HTMLTextAreaElement).value })}></textarea>
          </label>
          <h2 class="mt-3">Readings</h2>
          <dl class="max-h-[170px] overflow-y-auto text-[13px]">
            {#each readings as [name, reads, values], i (i)}
              <div class="border-hairline flex justify-between gap-3 border-b py-[2px]">
                <dt class="text-quiet narrow">{name}, {reads.replace('_', ' ')}</dt>
                <dd class="narrow text-right">
                  {values.map((v) => lengthText(v, session.style, 2)).join(', ')}
                  {unitOf(session.style)}
                </dd>
              </div>
            {:else}<p class="fine">None: it is known by its file.</p>{/each}
          </dl>
        </div>
      </fieldset>
      {#if trouble}<p class="text-stop mt-2 text-[13px]" role="alert">{trouble}</p>{/if}
      <div class="mt-4 flex gap-2">
        {#if session.makes}
          <button class="button button-main" onclick={() => run(() => onstart(blank.id, blank.name))}
            >Start a job on it</button
          >
          <button class="button" onclick={copy}>Duplicate</button>
          {#if sure}
            <button class="button text-stop!" onclick={drop}>Yes, take it off for good</button>
          {:else}
            <button class="button" onclick={() => (sure = true)}>Take it off the Shelf</button>
          {/if}
        {/if}
        <span class="grow"></span>
        <button class="button" onclick={onclose}>Close</button>
      </div>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
