<script lang="ts">
  /** How films of each finish are told apart on a drawing: a pattern laid over the film's own colour. */
  let { px }: { px: number } = $props();
  // Pseudo-random, but the same each time.
  const flakes = Array.from({ length: 26 }, (_, i) => [(i * 37) % 24, (i * 53 + (i % 5) * 3) % 24, i % 3] as const);
</script>

<defs>
  <pattern id="finish-matt" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="scale({px})">
    <rect x="1" y="1" width="1" height="1" fill="#fff" fill-opacity="0.16" />
  </pattern>
  <pattern id="finish-glitter" width="24" height="24" patternUnits="userSpaceOnUse" patternTransform="scale({px})">
    {#each flakes as [x, y, kind], i (i)}
      <rect
        {x}
        {y}
        width={kind ? 1.4 : 2.2}
        height={kind ? 1.4 : 2.2}
        fill={kind === 2 ? '#000' : '#fff'}
        fill-opacity={kind === 2 ? 0.35 : 0.75}
      />
    {/each}
  </pattern>
  <pattern
    id="finish-metal"
    width="46"
    height="8"
    patternUnits="userSpaceOnUse"
    patternTransform="scale({px}) rotate(24)"
  >
    <rect width="9" height="8" fill="#fff" fill-opacity="0.4" />
    <rect x="9" width="6" height="8" fill="#fff" fill-opacity="0.18" />
    <rect x="30" width="8" height="8" fill="#000" fill-opacity="0.16" />
  </pattern>
  <pattern
    id="finish-holographic"
    width="36"
    height="8"
    patternUnits="userSpaceOnUse"
    patternTransform="scale({px}) rotate(35)"
  >
    {#each ['#7fe3ff', '#c7a6ff', '#ffb0dc', '#fff0a0', '#a8f5c0', '#9ab8ff'] as c, i (c)}
      <rect x={6 * i} width="6" height="8" fill={c} fill-opacity="0.55" />
    {/each}
  </pattern>
  <pattern id="finish-brushed" width="60" height="4" patternUnits="userSpaceOnUse" patternTransform="scale({px})">
    <rect width="44" height="0.8" fill="#fff" fill-opacity="0.5" />
    <rect x="12" y="2" width="48" height="0.8" fill="#000" fill-opacity="0.22" />
  </pattern>
  <pattern
    id="finish-clear"
    width="8"
    height="8"
    patternUnits="userSpaceOnUse"
    patternTransform="scale({px}) rotate(45)"
  >
    <rect width="0.8" height="8" fill="#18202e" fill-opacity="0.3" />
  </pattern>
  <pattern id="finish-reflective" width="10" height="8" patternUnits="userSpaceOnUse" patternTransform="scale({px})">
    <path d="M0 6L5 2L10 6" fill="none" stroke="#fff" stroke-opacity="0.65" stroke-width="1" />
  </pattern>
</defs>
