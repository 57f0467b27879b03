<script lang="ts">
  import { onMount } from 'svelte';
  import type { JobState } from '../../state/job.svelte';
  import { tables } from '../../state/tables.svelte';
  import Readings from '../Readings.svelte';
  import { ROUND_READS } from './kinds';
  import Photograph from './Photograph.svelte';
  import RoundCommon from './RoundCommon.svelte';
  let { job }: { job: JobState } = $props();
  const rings = $derived((job.value('blank.rings') as unknown[] | undefined) ?? []);
  onMount(() => void tables.load());
  const add = () => job.setOffered('blank.rings', 'rings.above', (ring) => [...rings, ring]);
  const without = (i: number) =>
    job.set(
      'blank.rings',
      rings.filter((_, n) => n !== i),
    );
</script>

{#each rings as _, i (i)}
  <div class="flex items-center justify-between pt-3">
    <h2 class="text-blue">Ring {i + 1}, from below</h2>
    {#if tables.canSpare('revolution.rings', rings.length)}<button class="link text-[13px]" onclick={() => without(i)}
        >take out</button
      >{/if}
  </div>
  <Readings {job} name="rings.{i}.height" title="Height" reads={[['upright', 'above the foot']]} />
  <Readings {job} name="rings.{i}.girth" title="Way round" reads={ROUND_READS} checks={ROUND_READS} />
{/each}
<button class="button my-2 text-[13px]" disabled={!tables.hasRoom('revolution.rings', rings.length)} onclick={add}
  >+ ring above</button
>
<RoundCommon {job} />
<Photograph {job} />
