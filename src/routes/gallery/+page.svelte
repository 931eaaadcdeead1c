<script lang="ts">
  import GalleryPage from '$ui/gallery/GalleryPage.svelte';
</script>

<GalleryPage />
