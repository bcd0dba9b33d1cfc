<script lang="ts"></script>

<p>…</p>
