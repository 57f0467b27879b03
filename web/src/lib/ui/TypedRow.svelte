<script lang="ts">
  /** A row of a form outside a job: a value as typed, its unit, and what is wrong with it. */
  import type { Fault } from '../api/client';

  let {
    id,
    label,
    note = '',
    unit = '',
    type = 'text',
    wide = false,
    value = $bindable(),
    fault,
    disabled = false,
    oninput,
    onchange,
  }: {
    id: string;
    label: string;
    note?: string;
    unit?: string;
    type?: string;
    /** Is it words, rather than a figure? */
    wide?: boolean;
    value?: string;
    fault?: Fault;
    disabled?: boolean;
    oninput?: (typed: string) => void;
    onchange?: () => void;
  } = $props();
</script>

<div
  class="border-hairline grid items-center gap-x-3 border-b py-[6px] {wide
    ? 'grid-cols-[1fr_220px]'
    : 'grid-cols-[1fr_122px]'}"
>
  <label for={id} class="leading-tight"
    >{label}
    {#if note}<span class="fine block">{note}</span>{/if}</label
  >
  <span class="relative block">
    <input
      {id}
      {type}
      {disabled}
      class="input {unit ? (unit.length > 3 ? 'pr-14!' : 'pr-9!') : ''}"
      autocomplete="off"
      aria-invalid={fault ? 'true' : undefined}
      aria-describedby={fault ? `${id}-fault` : undefined}
      bind:value
      {onchange}
      oninput={(e) => oninput?.(e.currentTarget.value)}
    />
    {#if unit}<span class="text-quiet pointer-events-none absolute top-[7px] right-2.5 text-[13px]">{unit}</span>{/if}
  </span>
  {#if fault}
    <p id="{id}-fault" class="text-stop col-span-2 mt-1 text-[13px] leading-tight" role="alert">
      {fault.message}
      {fault.hint}
    </p>
  {/if}
</div>
