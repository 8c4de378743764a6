/**
 * Files dropped where no place takes them do nothing. A browser would open them in the place of the page, and
 * what was typed there would be gone.
 */
export function ignoreStrayFiles(): void {
  const ignore = (event: DragEvent): void => {
    if (event.defaultPrevented || !event.dataTransfer?.types.includes('Files')) return;
    event.preventDefault();
    event.dataTransfer.dropEffect = 'none';
  };
  window.addEventListener('dragover', ignore);
  window.addEventListener('drop', ignore);
}
