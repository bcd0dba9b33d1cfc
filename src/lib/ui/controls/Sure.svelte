<script lang="ts">
  // What stands in the way is gone on with only by its name: a box to tick beside it.
  let {
    id,
    code,
    text,
    testid,
    confirmed = $bindable(),
  }: {
    id: string;
    /** The name that it is confirmed by. */
    code: string;
    text: string;
    testid: string;
    /** The ids of all that are confirmed. */
    confirmed: readonly string[];
  } = $props();
</script>

<label class="mt-1 flex items-center gap-2">
  <input
    type="checkbox"
    class="checkbox checkbox-xs"
    data-testid={testid}
    checked={confirmed.includes(id)}
    onchange={(e) =>
      (confirmed = e.currentTarget.checked ? [...confirmed, id] : confirmed.filter((x) => x !== id))}
  />
  {text} <span class="mono">{code}</span>
</label>
