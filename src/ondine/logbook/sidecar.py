"""One XMP sidecar (ISO 16684-1): read, extended, written, with all that others put into it left as it is.

A property may stand as an element or as an attribute, in any of the descriptions of the resource; both are found.
"""

from __future__ import annotations

import codecs
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from xml.parsers.expat import ExpatError, ParserCreate

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
    '</x:xmpmeta>\n<?xpacket end="w"?>\n'
)


class SidecarError(Exception):
    """A file that is no sidecar that can be extended; the text says why, and it was left untouched."""


class Sidecar:
    """The properties of one resource. `read` and `new` make it, `to_bytes` gives the file's content."""

    def __init__(self, content: bytes) -> None:
        self._root = _parsed(content)
        self._rdf = _rdf_of(self._root)
        self._around = _Around.of(content, self._root)
        self._before = self._serialized()

    @classmethod
    def new(cls) -> Sidecar:
        """Return an empty one."""
        return cls(_NEW.encode("utf-8"))

    @classmethod
    def read(cls, path: Path) -> Sidecar:
        """Read a sidecar. Raises SidecarError for what is none, or might harm; OSError if it is away."""
        try:
            return cls(read_bytes(path, MOST_BYTES))
        except DoorError as error:
            raise SidecarError(f"{path} is left as it is: {error}.") from error
        except (etree.XMLSyntaxError, ExpatError, ValueError, LookupError) as error:
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
        return None if found is None else _own_text(found)

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
        _set_text(found, value)

    def items(self, name: str) -> list[str]:
        """Return the items of a list, in their order; none where the property is missing."""
        tag = _tag(name)
        found = self._element(tag)
        if found is None:
            # A list cannot stand as an attribute, but some write a single word so.
            return [d.attrib[tag].strip() for d in self._descriptions() if d.attrib.get(tag, "").strip()]
        if _list_in(found) is None:
            alone = _own_text(found)
            return [alone] if alone else []
        return [_text_of(item) for item in found.iter(f"{{{RDF}}}li")]

    def change_items(self, name: str, gone: set[str], wanted: list[str]) -> None:
        """Take items out of a list and add others that are not in it yet; the rest stays where it is."""
        alone = self.items(name) if self._list(name) is None else []
        bag = self._list(name)
        if bag is None:
            if not wanted and not gone & set(alone):
                return
            bag = self._new_list(name, "Bag")
            for text in alone:
                etree.SubElement(bag, f"{{{RDF}}}li").text = text
        has = set()
        for item in bag.findall(f"{{{RDF}}}li"):
            if _text_of(item) in gone:
                bag.remove(item)
            else:
                has.add(_text_of(item))
        for text in wanted:
            if text not in has:
                etree.SubElement(bag, f"{{{RDF}}}li").text = text
                has.add(text)

    def default_text(self, name: str) -> str | None:
        """Return a text that may stand in several languages in its usual one, None where it has none."""
        item = self._default_item(_tag(name))
        if item is not None:
            return _text_of(item)
        alone = self.items(name) if self._list(name) is None else []
        return alone[0] if alone else None

    def set_default_text(self, name: str, value: str) -> None:
        """Give a text its usual language's version; those in other languages stay."""
        item = self._default_item(_tag(name))
        if item is None:
            alternatives = self._list(name)
            if alternatives is None:
                alternatives = self._new_list(name, "Alt")
            item = etree.Element(f"{{{RDF}}}li")
            item.set(f"{{{XML}}}lang", "x-default")
            # The usual one comes first.
            alternatives.insert(0, item)
        _set_text(item, value)

    # The file

    @property
    def is_changed(self) -> bool:
        """Whether anything is other than it was read."""
        return self._serialized() != self._before

    def to_bytes(self) -> bytes:
        """Return the content of the file: what stands outside the root, and the encoding, are as they were read."""
        return self._around.joined(self._serialized())

    def _serialized(self) -> str:
        return str(etree.tostring(self._root, encoding="unicode", with_tail=False))

    def _list(self, name: str) -> Any | None:
        found = self._element(_tag(name))
        return None if found is None else _list_in(found)

    def _new_list(self, name: str, kind: str) -> Any:
        """Make the list of a property that has none, in the place of a text or an attribute that stood there."""
        tag = _tag(name)
        for description in self._descriptions():
            description.attrib.pop(tag, None)
        found = self._element(tag)
        if found is None:
            found = self._added(tag, name)
        found.text = None
        return etree.SubElement(found, f"{{{RDF}}}{kind}")

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


def _list_in(found: Any) -> Any | None:
    """Return the list inside a property; comments may stand beside it."""
    return next(found.iterchildren(*(f"{{{RDF}}}{kind}" for kind in ("Bag", "Seq", "Alt"))), None)


def _own_text(found: Any) -> str:
    """Return the text of a property that holds no list, without comments."""
    return _text_of(found).strip()


def _set_text(found: Any, value: str) -> None:
    found.text = value
    for comment in found:
        # It stays; what stood behind it was part of the old text.
        comment.tail = None


def _text_of(found: Any) -> str:
    return "".join(found.xpath("descendant-or-self::*/text()"))


def _parsed(content: bytes) -> Any:
    """Parse XML that may come from anywhere: nothing is fetched, nothing is expanded, and no types are declared."""
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
    root = etree.fromstring(content, parser)
    info = root.getroottree().docinfo
    if info.doctype or info.internalDTD is not None:
        raise ValueError("it declares types of its own, which no sidecar needs")
    return root


@dataclass(frozen=True)
class _Around:
    """What stands before and after the root, and how the file is encoded: its byte order mark, and its codec."""

    before: bytes
    after: bytes
    codec: str

    @classmethod
    def of(cls, content: bytes, root: Any) -> _Around:
        """Find it in a content that was parsed. Raises ExpatError, ValueError, LookupError."""
        codec = next((codec for mark, codec in _MARKS if content.startswith(mark)), "")
        codec = codec or (root.getroottree().docinfo.encoding or "utf-8")
        start, last = _ends_of_root(content)
        rest = content[last:].decode(codec)
        # A root that is one empty tag ends where the parser says; any other with its closing tag.
        closing = rest[: rest.index(">") + 1] if rest.startswith("</") else ""
        return cls(content[:start], content[last + len(closing.encode(codec)) :], codec)

    def joined(self, root: str) -> bytes:
        """Return the whole file with another root; letters that its encoding lacks stand as numbers."""
        return self.before + root.encode(self.codec, "xmlcharrefreplace") + self.after


_MARKS = ((codecs.BOM_UTF8, "utf-8"), (codecs.BOM_UTF16_LE, "utf-16-le"), (codecs.BOM_UTF16_BE, "utf-16-be"))


def _ends_of_root(content: bytes) -> tuple[int, int]:
    """Return at which byte the root begins, and at which its closing tag does; where it has none, the byte after it."""
    parser = ParserCreate()
    starts: list[int] = []
    last = [0]
    depth = [0]

    def begins(*_: object) -> None:
        if not starts:
            starts.append(parser.CurrentByteIndex)
        depth[0] += 1

    def ends(_: str) -> None:
        depth[0] -= 1
        if depth[0] == 0:
            last[0] = parser.CurrentByteIndex

    parser.StartElementHandler, parser.EndElementHandler = begins, ends
    parser.Parse(content, True)
    return starts[0], last[0]


def _rdf_of(root: Any) -> Any:
    """Return the RDF of a sidecar. Raises ValueError where there is none."""
    tag = f"{{{RDF}}}RDF"
    found = root if root.tag == tag else root.find(tag)
    if found is None:
        raise ValueError("it holds no RDF")
    return found
