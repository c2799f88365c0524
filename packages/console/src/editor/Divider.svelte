<script lang="ts">
import { preferences } from '../state/preferences.svelte.js';

const LEAST = 280;
const MOST = 760;
const STEP = 24;

/** Makes the panel wider or narrower, by dragging or with the arrow keys; narrower than the least hides it. */
function put(width: number) {
  if (width < LEAST - 80) return preferences.set({ panelHidden: true });
  preferences.set({ panelHidden: false, panelWidth: Math.round(Math.min(MOST, Math.max(LEAST, width))) });
}
function grab(event: PointerEvent) {
  const handle = event.currentTarget as HTMLElement;
  handle.setPointerCapture(event.pointerId);
  const move = (to: PointerEvent) => put(innerWidth - to.clientX);
  const release = () => {
    handle.removeEventListener('pointermove', move);
    handle.removeEventListener('pointerup', release);
  };
  handle.addEventListener('pointermove', move);
  handle.addEventListener('pointerup', release);
}
function pressed(event: KeyboardEvent) {
  if (event.key === 'ArrowLeft') put((preferences.panelHidden ? LEAST - STEP : preferences.panelWidth) + STEP);
  else if (event.key === 'ArrowRight') put(preferences.panelWidth - STEP);
  else if (event.key === 'Enter') preferences.set({ panelHidden: !preferences.panelHidden });
  else return;
  event.preventDefault();
}
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions (it moves) -->
<div
  role="separator"
  tabindex="0"
  aria-orientation="vertical"
  aria-label="Width of the panel"
  aria-valuenow={preferences.panelHidden ? 0 : preferences.panelWidth}
  aria-valuemin={0}
  aria-valuemax={MOST}
  class="divider"
  onpointerdown={grab}
  onkeydown={pressed}
  ondblclick={() => preferences.set({ panelHidden: !preferences.panelHidden })}
></div>
