<script lang="ts">
  /** A password field under its words, which can be shown, with what is wrong with it. */
  let {
    label,
    name,
    autocomplete,
    value = $bindable(''),
    trouble = '',
  }: {
    label: string;
    name: string;
    autocomplete: 'current-password' | 'new-password';
    value?: string;
    trouble?: string;
  } = $props();
  let shown = $state(false);
  const note = $derived(
    autocomplete === 'new-password' ? 'Twelve signs or more, and nothing like your name or the workshop’s.' : '',
  );
</script>

<div>
  <div class="flex items-baseline justify-between">
    <label for="secret-{name}">{label}</label>
    <button
      type="button"
      class="link text-[13px]"
      aria-pressed={shown}
      aria-label="{shown ? 'Hide' : 'Show'} the {label.toLowerCase()}"
      onclick={() => (shown = !shown)}>{shown ? 'Hide' : 'Show'}</button
    >
  </div>
  <input
    class="input"
    id="secret-{name}"
    type={shown ? 'text' : 'password'}
    {name}
    {autocomplete}
    required
    aria-invalid={!!trouble}
    aria-describedby={note || trouble ? `${name}-note` : undefined}
    bind:value
  />
  {#if trouble}<p id="{name}-note" class="text-stop mt-1 text-[14px] leading-snug" role="alert">{trouble}</p>
  {:else if note}<p id="{name}-note" class="fine mt-1 leading-snug">{note}</p>{/if}
</div>
