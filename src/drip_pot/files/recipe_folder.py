# SPDX-License-Identifier: GPL-3.0-or-later
"""The recipes that a person keeps, a JSON file each in one folder. Knows files and recipes; nothing of books."""

from pathlib import Path

from drip_pot.book.recipes import Recipe, read_recipe
from drip_pot.core.errors import BadInput, CannotWrite, DripPotError
from drip_pot.files.images import read_file
from drip_pot.files.outputs import keep_recipe, slug
from drip_pot.words import tr


class RecipeFolder:
    """Recipes by name.

    Parameters
    ----------
    folder : Path
        Made when the first is kept.

    Attributes
    ----------
    troubles : list of str
        What is to be said of files in it that are no recipes.
    """

    def __init__(self, folder: Path) -> None:
        self.folder, self.troubles = folder, list[str]()
        self._kept: dict[str, tuple[Path, Recipe]] = {}
        for path in sorted(folder.glob("*.json")):
            try:
                recipe = read_recipe(read_file(path), path.name)
                self._kept.setdefault(recipe.name, (path, recipe))
            except DripPotError as error:
                self.troubles.append(str(error))

    def names(self) -> list[str]:
        """Return the names of all, by the alphabet."""
        return sorted(self._kept, key=str.casefold)

    def recipe(self, name: str) -> Recipe:
        """Return a recipe; raises `BadInput` where there is none of that name."""
        if name not in self._kept:
            raise BadInput("No recipe {0} is kept.", name)
        return self._kept[name][1]

    def keep(self, recipe: Recipe) -> None:
        """Keep a recipe, in the place of one of the same name; raises `CannotWrite`."""
        path = self._kept[recipe.name][0] if recipe.name in self._kept else self._free(recipe.name)
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise CannotWrite("{0} cannot be made: {1}.", self.folder, error.strerror or error) from error
        keep_recipe(path, recipe)
        self._kept[recipe.name] = path, recipe

    def remove(self, name: str) -> None:
        """Forget a recipe; raises `BadInput` where there is none, and `CannotWrite`."""
        self.recipe(name)
        path = self._kept[name][0]
        try:
            path.unlink(missing_ok=True)
        except OSError as error:
            raise CannotWrite("{0} cannot be removed: {1}.", path, error.strerror or error) from error
        del self._kept[name]

    def free_name(self, name: str) -> str:
        """Return a name like this one that no recipe has."""
        found, number = name, 2
        while found in self._kept:
            found, number = tr("{0} {1}", name, number), number + 1
        return found

    def _free(self, name: str) -> Path:
        """Return a file that is not there, for a name."""
        stem, number = slug(name) or "recipe", 1
        while (path := self.folder / f"{stem}{f'-{number}' if number > 1 else ''}.json").exists():
            number += 1
        return path
