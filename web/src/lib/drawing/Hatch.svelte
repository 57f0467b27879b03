<script lang="ts">
  /** The hatching of keep-out zones. */
  let { id, px }: { id: string; px: number } = $props();
</script>

<pattern {id} width={6 * px} height={6 * px} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
  <path d="M0 0V{6 * px}" stroke="var(--color-edge)" stroke-width={0.9 * px} />
</pattern>
