<script lang="ts">
  /** The strain map on the template: shade for how bad, upright lines where the film stretches, level ones where it shortens. */
  import type { Scene } from '../state/scene';
  import { paintOf } from '../scene/strain';
  import { pathOf } from './paper';

  let { scene, px, id }: { scene: Scene; px: number; id: string } = $props();
  const areas = $derived(scene.strain ?? []);
  const GAPS = [0, 14, 10, 6, 3.5];
</script>

<defs>
  {#each [1, 2, 3, 4] as step (step)}
    {#each [true, false] as stretched (stretched)}
      <pattern
        id="{id}-{step}-{stretched ? 'out' : 'in'}"
        width={GAPS[step]! * px}
        height={GAPS[step]! * px}
        patternUnits="userSpaceOnUse"
      >
        <rect width={GAPS[step]! * px} height={GAPS[step]! * px} fill={paintOf(step, stretched)} />
        <path
          d={stretched ? `M0 0V${GAPS[step]! * px}` : `M0 0H${GAPS[step]! * px}`}
          stroke={step > 3 ? '#ffffff' : '#18202e'}
          stroke-width={0.8 * px}
          opacity="0.55"
        />
      </pattern>
    {/each}
  {/each}
</defs>
{#each areas as area, i (i)}
  <path
    d={pathOf(area.rings)}
    fill-rule="evenodd"
    fill="url(#{id}-{area.step}-{area.stretched ? 'out' : 'in'})"
    opacity="0.9"
  />
{/each}
