<script lang="ts">
  /** Beside a verdict that may not stand any more: it is being looked at again. */
</script>

<svg width="11" height="3" viewBox="0 0 11 3" role="img" aria-label="being looked at again">
  {#each [1.5, 5.5, 9.5] as x (x)}<circle cx={x} cy="1.5" r="1.25" fill="var(--color-quiet)" />{/each}
</svg>
