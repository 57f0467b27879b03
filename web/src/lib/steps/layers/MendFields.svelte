<script lang="ts">
  /** Mending on request: what each way would change is said before it is done. */
  import type { JobState } from '../../state/job.svelte';
  import Field from '../../ui/Field.svelte';
  import Fold from '../../ui/Fold.svelte';

  let { job }: { job: JobState } = $props();
  const ways = $derived(job.scene?.mending ?? []);
  const again = $derived(!job.scene?.mending || job.scene.old.includes('mending'));
  const LABELS: Record<string, string> = {
    thicken: 'Widen what is too thin',
    drop: 'Leave out pieces under',
    widen: 'Open narrow gaps',
    round: 'Round points by',
    bridge: 'Bridge dots, no longer than',
  };
  const own = $derived(job.document?.layers.mend_of ?? []);
  const nameOf = (colour: string) => job.scene?.layers?.layers.find((la) => la.colour === colour)?.name ?? colour;
  const done = $derived(ways.filter((w) => w.done).length);
  const could = $derived(ways.filter((w) => w.places && !w.done).length);
</script>

{#if ways.length || job.scene?.layers?.layers.length}
  <Fold
    title="Mending"
    note={again ? 'being looked at …' : done ? `${done} done` : could ? `${could} can be done` : 'nothing to mend'}
  >
    {#each ways as w (w.kind)}
      <div class="border-hairline border-b py-[7px] leading-tight">
        <div class="flex items-center gap-2">
          <label class="flex grow items-center gap-3"
            ><input
              type="checkbox"
              id="field-{w.path}"
              class="accent-blue size-5"
              disabled={!w.done && (again || !w.places || !w.possible || !w.helps)}
              checked={w.done}
              onchange={(e) => job.set(w.path, e.currentTarget.checked ? w.on : w.off)}
            /><span class="grow">{LABELS[w.kind]}</span></label
          >
        </div>
        <p class="fine pl-8">
          {again
            ? 'being looked at …'
            : !w.possible
              ? `${w.places} places: too many to mend one by one; draw it larger, or take another film`
              : w.places
                ? `${w.places === 1 ? 'one place' : `${w.places} places`}; ${
                    w.helps
                      ? `${w.done ? 'changed' : 'changes'} ${w.area} of the look, edges by ${w.shift}${w.joined ? `, ${w.joined[0]} pieces become ${w.joined[1]}` : ''}`
                      : own.length
                        ? 'done film by film, or no room for it'
                        : 'no room for it'
                  }`
                : 'nothing of that kind'}
        </p>
        {#if typeof w.on === 'number' && w.done}<Field {job} path={w.path} label="Size" />{/if}
      </div>
    {/each}
    {#each own as only, n (only.colour)}
      <div class="border-hairline flex items-center gap-3 border-b py-[7px] leading-tight">
        <span class="grow">Only {nameOf(only.colour)} is mended</span>
        <button class="link" onclick={() => job.set(`layers.mend_of.${n}`, undefined)}>Leave as drawn</button>
      </div>
    {/each}
  </Fold>
{/if}
