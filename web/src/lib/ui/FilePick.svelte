<script lang="ts">
  /** A file taken in by hand: a hidden picker, what is said while it is read, and what was wrong with it. */
  import { wordsOf } from '../api/client';
  let {
    accept,
    label,
    onfile,
    busy = $bindable(false),
    trouble = $bindable(''),
  }: {
    accept: string;
    label: string;
    onfile: (file: File) => Promise<void>;
    busy?: boolean;
    trouble?: string;
  } = $props();
  let input: HTMLInputElement | null = $state(null);

  export function pick() {
    input?.click();
  }
  async function taken() {
    const file = input?.files?.[0];
    if (!file) return;
    busy = true;
    trouble = '';
    try {
      await onfile(file);
    } catch (bad) {
      trouble = wordsOf(bad);
    } finally {
      busy = false;
      // What was brought in may have taken this picker off the page.
      if (input) input.value = '';
    }
  }
</script>

<input bind:this={input} type="file" {accept} class="sr-only" tabindex="-1" aria-label={label} onchange={taken} />
