<script lang="ts">
  /** Files dropped on the page or pasted into it, one after the other; words pasted while no field is written in. */
  import { wordsOf } from '../api/client';
  let {
    what,
    onfile,
    ontext,
    busy = $bindable(false),
    trouble = $bindable(''),
  }: {
    what: string;
    onfile: (file: File) => Promise<void>;
    ontext?: (text: string) => Promise<void>;
    busy?: boolean;
    trouble?: string;
  } = $props();
  let over = $state(false);
  const holdsFiles = (e: DragEvent) => [...(e.dataTransfer?.types ?? [])].includes('Files');
  const typing = (e: Event) => !!(e.target as Element).closest?.('input, select, textarea');

  async function all(work: (() => Promise<void>)[]) {
    busy = true;
    trouble = '';
    try {
      for (const one of work) await one();
    } catch (bad) {
      trouble = wordsOf(bad);
    } finally {
      busy = false;
    }
  }
  function drop(e: DragEvent) {
    over = false;
    if (!holdsFiles(e)) return;
    e.preventDefault();
    void all([...(e.dataTransfer?.files ?? [])].map((f) => () => onfile(f)));
  }
  function paste(e: ClipboardEvent) {
    if (typing(e)) return;
    const files = [...(e.clipboardData?.files ?? [])];
    const text = e.clipboardData?.getData('text/plain').trim() ?? '';
    if (files.length) void all(files.map((f) => () => onfile(f)));
    else if (/^(<\?xml[^>]*>\s*)?(<!--[^]*?-->\s*)?<svg[\s>]/.test(text.slice(0, 2000)))
      void all([() => onfile(new File([text], 'pasted.svg', { type: 'image/svg+xml' }))]);
    else if (text && ontext) void all([() => ontext(text)]);
    else return;
    e.preventDefault();
  }
</script>

<svelte:window
  ondragover={(e) => {
    if (!holdsFiles(e)) return;
    e.preventDefault();
    over = true;
  }}
  ondragleave={(e) => {
    if (!e.relatedTarget) over = false;
  }}
  ondrop={drop}
  onpaste={paste}
/>
{#if over}
  <div
    class="border-brass pointer-events-none fixed inset-2 z-30 flex items-start justify-center border-2 border-dashed"
  >
    <p class="bg-sheet border-brass mt-24 rounded-[3px] border px-4 py-2">{what}</p>
  </div>
{/if}
