<script lang="ts">
  /** Mending on request: what each way would change is said before it is done. */
  import type { JobState } from '../../state/job.svelte';
  import Field from '../../ui/Field.svelte';
  import Fold from '../../ui/Fold.svelte';

  let { job }: { job: JobState } = $props();
  const ways = $derived(job.scene?.mending ?? []);
  const again = $derived(!job.scene?.mending || job.scene.old.includes('mending'));
  type Way = { label: string; path: string; on: boolean | number; size?: boolean };
  const WAYS: Record<string, Way> = {
    thicken: { label: 'Widen what is too thin', path: 'layers.mend.thicken', on: true },
    drop: { label: 'Leave out pieces under', path: 'layers.mend.drop_under_mm', on: 2, size: true },
    widen: { label: 'Open narrow gaps', path: 'layers.mend.widen_gaps', on: true },
    round: { label: 'Round points by', path: 'layers.mend.round_mm', on: 0.4, size: true },
    bridge: { label: 'Bridge dots, no longer than', path: 'layers.mend.bridge_mm', on: 4, size: true },
  };
  const done = $derived(ways.filter((w) => w.done).length);
  const could = $derived(ways.filter((w) => w.places && !w.done).length);
</script>

{#if ways.length || job.scene?.layers?.layers.length}
  <Fold
    title="Mending"
    note={again ? 'being looked at …' : done ? `${done} done` : could ? `${could} can be done` : 'nothing to mend'}
  >
    {#each ways as w (w.kind)}
      {@const way = WAYS[w.kind]!}
      <div class="border-hairline border-b py-[7px] leading-tight">
        <div class="flex items-center gap-2">
          <label class="flex grow items-center gap-3"
            ><input
              type="checkbox"
              id="field-{way.path}"
              class="accent-blue size-5"
              disabled={!w.done && (again || !w.places || !w.possible)}
              checked={w.done}
              onchange={(e) =>
                job.set(way.path, e.currentTarget.checked ? way.on : typeof way.on === 'number' ? 0 : false)}
            /><span class="grow">{way.label}</span></label
          >
        </div>
        <p class="fine pl-8">
          {again
            ? 'being looked at …'
            : !w.possible
              ? `${w.places} places: too many to mend one by one; draw it larger, or take another film`
              : w.places
                ? `${w.places === 1 ? 'one place' : `${w.places} places`}; ${w.done ? 'changed' : 'changes'} ${w.area} of the look, edges by ${w.shift}`
                : 'nothing of that kind'}
        </p>
        {#if way.size && w.done}<Field {job} path={way.path} label="Size" />{/if}
      </div>
    {/each}
  </Fold>
{/if}
