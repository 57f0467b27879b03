<script lang="ts">
  /** One typed value of the document: shown in the workshop's units, read by the core, kept as typed where it is wrong. */
  import type { JobState } from '../state/job.svelte';
  import { session } from '../state/session.svelte';
  import { fieldText, unitOf, volumeText, volumeUnit } from '../units';

  let {
    job,
    path,
    label,
    note = '',
    kind = 'length',
    unit,
    optional = false,
    short = false,
    onenter,
  }: {
    job: JobState;
    path: string;
    label: string;
    note?: string;
    kind?: 'length' | 'number' | 'volume' | 'text' | 'money';
    unit?: string;
    optional?: boolean;
    short?: boolean;
    onenter?: () => void;
  } = $props();

  let typed = $state<string | null>(null);
  const value = $derived(job.value(path));
  const shown = $derived.by(() => {
    if (value === null || value === undefined) return '';
    if (typeof value !== 'number') return String(value);
    if (kind === 'length') return fieldText(value, session.style);
    if (kind === 'volume') return volumeText(value, session.style);
    return String(Number(value.toFixed(3)));
  });
  const fault = $derived(job.fault(path));
  const said = $derived(
    unit ?? (kind === 'length' ? unitOf(session.style) : kind === 'volume' ? volumeUnit(session.style) : ''),
  );
  let timer: ReturnType<typeof setTimeout> | undefined;

  function commit() {
    clearTimeout(timer);
    if (typed === null || typed === shown) return;
    job.set(path, typed.trim() === '' && optional ? null : typed);
  }
  function input(e: Event) {
    typed = (e.target as HTMLInputElement).value;
    clearTimeout(timer);
    timer = setTimeout(commit, 220);
  }
  function keydown(e: KeyboardEvent) {
    if (e.key === 'Enter') {
      commit();
      if (onenter) return onenter();
      const all = [...document.querySelectorAll<HTMLInputElement>('#slip input, #slip select')].filter((el) =>
        el.checkVisibility(),
      );
      all[all.indexOf(e.target as HTMLInputElement) + 1]?.focus();
    } else if (e.key === 'Escape') {
      typed = null;
      (e.target as HTMLInputElement).value = shown;
    }
  }
</script>

<div class={short ? '' : 'border-hairline grid grid-cols-[1fr_122px] items-center gap-x-3 border-b py-[7px]'}>
  {#if !short}
    <label for="field-{path}" class="leading-tight">
      {label}
      {#if note}<span class="fine block text-[13px]!">{note}</span>{/if}
    </label>
  {/if}
  <span class="relative block">
    <input
      id="field-{path}"
      class="input {said ? (said.length > 3 ? 'pr-14!' : 'pr-9!') : ''}"
      autocomplete="off"
      spellcheck="false"
      aria-label={short ? label : undefined}
      aria-invalid={fault ? 'true' : undefined}
      aria-describedby={fault ? `fault-${path}` : undefined}
      value={typed ?? shown}
      oninput={input}
      onkeydown={keydown}
      onfocus={(e) => {
        job.focused = path;
        (e.target as HTMLInputElement).select();
      }}
      onblur={() => {
        commit();
        typed = null;
        job.focused = '';
      }}
    />
    {#if said}<span class="text-quiet pointer-events-none absolute top-[7px] right-2.5 text-[13px]">{said}</span>{/if}
  </span>
  {#if fault && !short}
    <p id="fault-{path}" class="text-stop col-span-2 mt-1 text-[13px] leading-tight" role="alert">
      {fault.message}
      {fault.hint}
    </p>
  {/if}
</div>
