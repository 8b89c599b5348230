"""What each check is called: a few words that a person can act on, shown above its message."""

from __future__ import annotations

__all__ = ["CHECK_TITLES", "title_of"]

CHECK_TITLES: dict[str, str] = {
    "licence_unknown": "No licence",
    "licence_refused": "Licence not allowed",
    "credit_missing": "Attribution missing",
    "direction_against_name": "Green direction contradicts the name",
    "direction_unknown": "Green direction unknown",
    "not_unit_length": "Normals are not of unit length",
    "two_channel_normal": "Normal map with two channels",
    "not_a_normal_map": "Not a normal map",
    "normal_strength": "Normal strength unusual",
    "plain_channel": "Channel holds one value",
    "roughness_metallic_exchanged": "Roughness and metallic exchanged",
    "hidden_alpha": "Mask in alpha",
    "plain_alpha": "Alpha holds one value",
    "height_steps": "Banding in height",
    "unused_height_range": "Height uses little of its range",
    "gloss_for_roughness": "Gloss in place of roughness",
    "gloss_as_roughness": "Too glossy: gloss read as roughness",
    "missing_map": "Map missing",
    "sizes_differ": "Sizes differ",
    "not_power_of_two": "Size is not a power of two",
    "not_multiple_of_four": "Size is not a multiple of four",
    "larger_than_target": "Larger than the target allows",
    "tag_against_role": "Colour tag contradicts the role",
    "primaries_against_role": "Primaries other than sRGB",
    "name_against_rules": "Name breaks the house rules",
    "specular_workflow": "Specular and gloss workflow",
    "twin_across_project": "Duplicate map in another set",
    "twin_maps": "Duplicate map",
    "unreadable": "Cannot be read",
    "undecided": "Role undecided",
    "metallic_mid_grey": "Metallic between 0 and 1",
    "implausible_colour": "Colour out of the usual range",
    "baked_light": "Shadow baked into the colour",
    "grey_colour": "Base colour is grey",
    "opacity_kind": "Kind of opacity",
    "upscaled": "Enlarged from a smaller size",
    "seam": "Seam at the border",
    "lossy_data": "Data from a lossy file",
    "more_depth_than_needed": "More bits than needed",
    "unlike_channels": "Channels differ",
    "format_not_allowed": "Format over the error limit",
    "srgb_data": "Data marked as sRGB",
    "linear_colour": "Colour marked as linear",
    "one_channel_in_many": "One channel in a format of many",
    "alpha_forces_format": "Plain alpha makes the format larger",
    "missing_mips": "Mip levels missing",
    "superfluous_mips": "Mip levels that are never seen",
    "direction_unlike_target": "Green points the other way than the target wants",
}


def title_of(check: str) -> str:
    """What a check is called; its key in words where it has no title.

    >>> title_of("twin_maps")
    'Duplicate map'
    """
    return CHECK_TITLES.get(check, check.replace("_", " ").capitalize())
