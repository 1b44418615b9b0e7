/** Where the bench leaves the recipe that was asked to be worked on many files. */
export const handedRecipe = 'jig-peel recipe for a batch';
