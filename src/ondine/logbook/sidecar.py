"""One XMP sidecar (ISO 16684-1): read, extended, written, with all that others put into it left as it is.

A property may stand as an element or as an attribute, in any of the descriptions of the resource; both are found.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

from lxml import etree

from ondine.logbook.door import DoorError, read_bytes

MOST_BYTES = 20_000_000
"""Sidecars of raw developers hold masks and histories; none has more."""

RDF = "http://www.w3.org/1999/02/22-rdf-syntax-ns#"
META = "adobe:ns:meta/"
XML = "http://www.w3.org/XML/1998/namespace"

PREFIXES = {
    "dc": "http://purl.org/dc/elements/1.1/",
    "xmp": "http://ns.adobe.com/xap/1.0/",
    "lr": "http://ns.adobe.com/lightroom/1.0/",
    "ondine": "urn:ondine:xmp:1.0:",
}
"""Namespaces of the properties that are written: those of the standard, the one in which programs agree to keep
hierarchies of keywords, and our own.
"""

_NEW = (
    '<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>\n'
    f'<x:xmpmeta xmlns:x="{META}">\n <rdf:RDF xmlns:rdf="{RDF}">\n  <rdf:Description rdf:about=""/>\n </rdf:RDF>\n'
    '</x:xmpmeta>\n<?xpacket end="w"?>'
)


class SidecarError(Exception):
    """A file that is no sidecar that can be extended; the text says why, and it was left untouched."""


class Sidecar:
    """The properties of one resource. `read` and `new` make it, `to_bytes` gives the file's content."""

    def __init__(self, tree: Any) -> None:
        self._tree = tree
        self._rdf = _rdf_of(tree)
        self._before = self._canonical()

    @classmethod
    def new(cls) -> Sidecar:
        """Return an empty one."""
        return cls(etree.ElementTree(_parsed(_NEW.encode("utf-8"))))

    @classmethod
    def read(cls, path: Path) -> Sidecar:
        """Read a sidecar. Raises SidecarError for what is none, or might harm; OSError if it is away."""
        try:
            root = _parsed(read_bytes(path, MOST_BYTES))
            return cls(root.getroottree())
        except DoorError as error:
            raise SidecarError(f"{path} is left as it is: {error}.") from error
        except (etree.XMLSyntaxError, ValueError) as error:
            why = str(error).splitlines()[0] if str(error) else "it is empty"
            raise SidecarError(
                f"{path} is no XMP that can be read ({why}), and was left as it is. Move it away to have a new one."
            ) from error

    # Properties

    def text(self, name: str) -> str | None:
        """Return the text of a simple property, None where it has none. `name`: as xmp:Rating."""
        tag = _tag(name)
        for description in self._descriptions():
            if tag in description.attrib:
                return str(description.attrib[tag])
        found = self._element(tag)
        return None if found is None else "".join(found.itertext()).strip()

    def set_text(self, name: str, value: str) -> None:
        """Give a simple property a value, where it stands, or anew."""
        tag = _tag(name)
        for description in self._descriptions():
            if tag in description.attrib:
                description.attrib[tag] = value
                return
        found = self._element(tag)
        if found is None:
            found = self._added(tag, name)
        found.text = value

    def items(self, name: str) -> list[str]:
        """Return the items of a list, in their order; none where the property is missing."""
        found = self._element(_tag(name))
        if found is None:
            return []
        if len(found) == 0:
            return [found.text.strip()] if (found.text or "").strip() else []
        return ["".join(item.itertext()) for item in found.iter(f"{{{RDF}}}li")]

    def change_items(self, name: str, gone: set[str], wanted: list[str]) -> None:
        """Take items out of a list and add others that are not in it yet; the rest stays where it is."""
        tag = _tag(name)
        found = self._element(tag)
        if found is None:
            if not wanted:
                return
            found = self._added(tag, name)
        if len(found) == 0:
            # Some write a single word without a list.
            alone, found.text = (found.text or "").strip(), None
            bag = etree.SubElement(found, f"{{{RDF}}}Bag")
            if alone:
                etree.SubElement(bag, f"{{{RDF}}}li").text = alone
        bag = found[0]
        for item in list(bag):
            if "".join(item.itertext()) in gone:
                bag.remove(item)
        has = {"".join(item.itertext()) for item in bag}
        for text in wanted:
            if text not in has:
                etree.SubElement(bag, f"{{{RDF}}}li").text = text
                has.add(text)

    def default_text(self, name: str) -> str | None:
        """Return a text that may stand in several languages in its usual one, None where it has none."""
        item = self._default_item(_tag(name))
        return None if item is None else "".join(item.itertext())

    def set_default_text(self, name: str, value: str) -> None:
        """Give a text its usual language's version; those in other languages stay."""
        tag = _tag(name)
        item = self._default_item(tag)
        if item is None:
            found = self._element(tag)
            if found is None:
                found = self._added(tag, name)
            alternatives = found[0] if len(found) else etree.SubElement(found, f"{{{RDF}}}Alt")
            item = etree.Element(f"{{{RDF}}}li")
            item.set(f"{{{XML}}}lang", "x-default")
            # The usual one comes first.
            alternatives.insert(0, item)
        item.text = value

    # The file

    @property
    def is_changed(self) -> bool:
        """Whether anything is other than it was read."""
        return self._canonical() != self._before

    def to_bytes(self) -> bytes:
        """Return the content of the file, as UTF-8."""
        found: bytes = etree.tostring(self._tree, encoding="utf-8", xml_declaration=False)
        return found + b"\n"

    def _canonical(self) -> bytes:
        found: bytes = etree.tostring(self._tree, method="c14n")
        return found

    def _descriptions(self) -> list[Any]:
        return list(self._rdf.iterchildren(f"{{{RDF}}}Description"))

    def _element(self, tag: str) -> Any | None:
        return next((e for d in self._descriptions() for e in d.iterchildren(tag)), None)

    def _added(self, tag: str, name: str) -> Any:
        descriptions = self._descriptions()
        if descriptions:
            holder = descriptions[0]
        else:
            holder = etree.SubElement(self._rdf, f"{{{RDF}}}Description")
            holder.set(f"{{{RDF}}}about", "")
        prefix = name.split(":")[0]
        return etree.SubElement(holder, tag, nsmap={prefix: PREFIXES[prefix]})

    def _default_item(self, tag: str) -> Any | None:
        found = self._element(tag)
        if found is None:
            return None
        items = list(found.iter(f"{{{RDF}}}li"))
        usual = [item for item in items if item.get(f"{{{XML}}}lang") in (None, "x-default")]
        return usual[0] if usual else None


def _tag(name: str) -> str:
    prefix, local = name.split(":")
    return f"{{{PREFIXES[prefix]}}}{local}"


def _parsed(content: bytes) -> Any:
    """Parse XML that may come from anywhere: nothing is fetched, nothing is expanded, and no types are declared."""
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
    root = etree.fromstring(content, parser)
    info = root.getroottree().docinfo
    if info.doctype or info.internalDTD is not None:
        raise ValueError("it declares types of its own, which no sidecar needs")
    return root


def _rdf_of(tree: Any) -> Any:
    """Return the RDF of a sidecar. Raises ValueError where there is none."""
    root = tree.getroot()
    tag = f"{{{RDF}}}RDF"
    found = root if root.tag == tag else root.find(tag)
    if found is None:
        raise ValueError("it holds no RDF")
    return found
