<script lang="ts">
  import type { Scene } from '../state/scene';
  import { paintOf } from '../scene/strain';
  let { scene }: { scene: Scene } = $props();
  const s = $derived(scene.template!.strain!);
  const NAMES = $derived([
    '',
    ...s.bounds.map((b) => (b === s.limit ? `over the ${b.toFixed(1)} % it takes` : `over ${b.toFixed(1)} %`)),
  ]);
  const shown = $derived([...new Set((scene.strain ?? []).map((a) => `${a.step}${a.stretched ? 'o' : 'i'}`))].sort());
</script>

<div
  class="bg-sheet/85 absolute bottom-2 left-[170px] flex flex-wrap items-center gap-x-3 gap-y-1 px-2 py-1 text-[13px]"
  role="group"
  aria-label="What the strain map shows"
>
  {#each shown as key (key)}
    {@const step = Number(key[0])}
    {@const out = key[1] === 'o'}
    <span class="narrow inline-flex items-center gap-1">
      <svg width="22" height="14" aria-hidden="true">
        <rect width="22" height="14" fill={paintOf(step, out)} />
        {#each { length: step + 1 } as _, i (i)}
          <path
            d={out ? `M${((i + 1) * 22) / (step + 2)} 0v14` : `M0 ${((i + 1) * 14) / (step + 2)}h22`}
            stroke={step > 3 ? '#ffffff' : '#18202e'}
            stroke-width="0.8"
            opacity="0.6"
          />
        {/each}
      </svg>
      {out ? 'stretched' : 'shortened'}
      {NAMES[step]}
    </span>
  {/each}
</div>
