/** What is dragged from the list of images: its id. */
export const draggedImage = 'application/x-jig-peel-image';
