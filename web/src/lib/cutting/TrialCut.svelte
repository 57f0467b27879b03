<script lang="ts">
  /** A test cut on a scrap: a row of figures, each with its force, and what each did. */
  import type { OnCutterState } from './oncutter.svelte';

  let {
    on,
    force,
    speed,
    ontake,
  }: { on: OnCutterState; force: string; speed: string; ontake: (force: number) => void } = $props();
  type Did = 'right' | 'not_through' | 'into_liner';
  const WORDS: [Did, string][] = [
    ['not_through', 'hangs on'],
    ['right', 'right'],
    ['into_liner', 'into the liner'],
  ];
  let row = $state.raw<{ forces: number[]; depths: number[] } | null>(null);
  let did = $state<(Did | '')[]>([]);
  let told = $state.raw<{ force_gf: number | null; margin_gf: number | null; muddled: boolean } | null>(null);
  async function cut() {
    told = null;
    const found = await on.trial(force, speed);
    if (!found) return;
    row = found;
    did = found.forces.map(() => '');
  }
  async function tap(n: number, what: Did) {
    did[n] = what;
    if (row && did.every(Boolean)) told = (await on.tapped(row.forces, did as Did[])) ?? null;
  }
</script>

<div class="border-hairline border-b py-2">
  <button class="button" disabled={on.busy} onclick={cut}>Cut a test row on a scrap, round that force</button>
  {#if row}
    <table class="mt-2 w-full text-[13px]">
      <tbody>
        {#each row.forces as f, n (n)}
          <tr class="border-hairline border-t">
            <th class="narrow py-1 text-left font-[600]">{f} gf</th>
            <td class="narrow text-quiet">{row.depths[n] ? `${row.depths[n]} µm` : ''}</td>
            <td>
              <select
                class="input min-h-[28px]! py-0! text-[13px]"
                aria-label="What the figure of {f} gf did"
                value={did[n]}
                onchange={(e) => tap(n, e.currentTarget.value as Did)}
              >
                <option value="" disabled>what did it do?</option>
                {#each WORDS as [id, words] (id)}<option value={id}>{words}</option>{/each}
              </select>
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
    {#if told?.force_gf}
      <p class="mt-2 flex items-center gap-2">
        <span class="grow"
          >{Math.round(told.force_gf)} gf, with {Math.round(told.margin_gf ?? 0)} gf to spare each way</span
        >
        <button class="button button-main" onclick={() => ontake(Math.round(told!.force_gf!))}>Take it</button>
      </p>
    {:else if told?.muddled}<p class="text-stop mt-2">
        More force went less deep: the row tells nothing. Test again, on a flat place of the same film.
      </p>
    {:else if told}<p class="text-stop mt-2">None came out right: test again, higher or lower.</p>{/if}
  {/if}
</div>
