<script lang="ts">
  /** A load on its way into the past: from which film it is cut, and marked when it was. */
  import type { Cuts } from '../state/cuts.svelte';
  import type { Scene } from '../state/scene';
  import { session } from '../state/session.svelte';

  type Load = NonNullable<Scene['sheets']>['loads'][number];
  let { load, cuts, others }: { load: Load; cuts: Cuts; others: string[] } = $props();
  const done = $derived(cuts.times(load.digest));
  const old = $derived(cuts.before(others));
  const words = $derived([...new Set(load.taken.map((t) => t.words))]);
  /** Remnants that are thrown away, by their ids. */
  let thrown = $state<string[]>([]);
  const last = $derived(cuts.done.findLast((c) => c.load === load.digest));
</script>

{#if words.length}
  <ul class="fine narrow py-1" aria-label="Film of this load">
    {#each words.slice(0, 4) as w (w)}<li>{w}</li>{/each}
    {#if words.length > 4}<li>and {words.length - 4} more</li>{/if}
  </ul>
{/if}
{#if session.makes}
  <div class="border-hairline flex flex-wrap items-center gap-x-3 border-b pb-1 text-[13px]">
    {#if done < load.times}
      <button class="link min-h-8" disabled={cuts.busy} onclick={() => cuts.look(load.digest)}>It was cut</button>
    {/if}
    {#if last}
      <span class="fine">cut {done} of {load.times}</span>
      <button class="link min-h-8" disabled={cuts.busy} onclick={() => cuts.takeBack(last.id)}>It was not</button>
    {/if}
  </div>
{/if}
{#if cuts.offer && cuts.about === load.digest}
  <div
    class="bg-sheet border-edge my-2 rounded-[3px] border p-3 text-[14px]"
    role="group"
    aria-label="This load was cut"
  >
    {#each cuts.offer.missing as m (m)}<p class="text-stop">{m}.</p>{/each}
    {#each cuts.offer.off as line (line)}<p class="narrow">{line}</p>{:else}
      {#if !cuts.offer.missing.length}<p>No film of it is counted: nothing comes off the stock.</p>{/if}
    {/each}
    {#each cuts.offer.remnants as r (r.id)}
      <label class="mt-1 flex items-center gap-2"
        ><input
          type="checkbox"
          checked={!thrown.includes(r.id)}
          onchange={() => (thrown = thrown.includes(r.id) ? thrown.filter((t) => t !== r.id) : [...thrown, r.id])}
        />
        <span class="narrow">keep the {r.words}</span></label
      >
    {/each}
    <div class="mt-2 flex gap-2">
      <button
        class="button button-main"
        disabled={cuts.busy || cuts.offer.missing.length > 0}
        onclick={() => cuts.mark(load.digest, cuts.offer?.remnants.map((r) => !thrown.includes(r.id)) ?? [])}
        >Take it off the stock</button
      >
      <button class="button" onclick={() => (cuts.offer = null)}>Leave it</button>
    </div>
  </div>
{/if}
{#if cuts.trouble}<p class="text-stop py-1 text-[13px]" role="alert">{cuts.trouble}</p>{/if}
{#if old.length}
  <p class="fine py-1">
    {old.length} load{old.length === 1 ? ' was' : 's were'} cut as the job was before a change.
    <button class="link min-h-8" disabled={cuts.busy} onclick={() => cuts.takeBack(old.at(-1)!.id)}
      >Forget the last one</button
    >
  </p>
{/if}
