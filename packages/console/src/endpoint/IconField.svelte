<script lang="ts">
/** An icon, by its address or from a file; clients show it next to the name. */
let { label, value, change }: { label: string; value: string | null; change: (icon: string) => void } = $props();
const uid = $props.id();
const shown = $derived(value?.startsWith('data:') ? '' : (value ?? ''));

/** A file becomes a data URI, so that no client has to fetch anything. */
function read(file: File | undefined) {
  if (!file) return;
  const reader = new FileReader();
  reader.onload = () => change(String(reader.result));
  reader.readAsDataURL(file);
}
</script>

<div>
  <label class="label" for="{uid}-address">{label}</label>
  <div class="flex flex-wrap items-center gap-2">
    {#if value?.startsWith('data:')}<img
        src={value}
        alt=""
        class="size-9 rounded border border-line bg-card object-contain"
      />{/if}
    <input
      id="{uid}-address"
      class="field max-w-80 grow font-mono"
      type="url"
      value={shown}
      placeholder={value && !shown ? 'from a file' : 'https://'}
      onchange={(event) => change(event.currentTarget.value.trim())}
    />
    <label class="button cursor-pointer focus-within:outline-2"
      >From a file<input
        class="sr-only"
        type="file"
        accept="image/png,image/jpeg,image/webp,image/svg+xml"
        aria-label="{label} from a file"
        onchange={(event) => read(event.currentTarget.files?.[0])}
      /></label
    >
    {#if value}<button type="button" class="link" onclick={() => change('')}
        >Remove<span class="sr-only">: {label}</span></button
      >{/if}
  </div>
</div>
