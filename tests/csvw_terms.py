"""The terms of CSV on the Web: *Metadata Vocabulary for Tabular Data*, W3C Recommendation of 17 December 2015."""

INHERITED = {
    "aboutUrl", "datatype", "default", "lang", "null", "ordered", "propertyUrl", "required", "separator",
    "textDirection", "valueUrl",
}  # fmt: skip
TABLE = {
    "@context", "@id", "@type", "url", "dialect", "notes", "suppressOutput", "tableDirection", "tableSchema",
    "transformations",
} | INHERITED  # fmt: skip
SCHEMA = {"@id", "@type", "columns", "foreignKeys", "primaryKey", "rowTitles"} | INHERITED
COLUMN = {"@id", "@type", "name", "suppressOutput", "titles", "virtual"} | INHERITED
DIALECT = {
    "@id", "@type", "commentPrefix", "delimiter", "doubleQuote", "encoding", "header", "headerRowCount", "lineTerminators",
    "quoteChar", "skipBlankRows", "skipColumns", "skipInitialSpace", "skipRows", "trim",
}  # fmt: skip
DATATYPE = {
    "@id", "@type", "base", "format", "length", "minLength", "maxLength", "minimum", "maximum", "minInclusive",
    "maxInclusive", "minExclusive", "maxExclusive",
}  # fmt: skip
DATATYPES = {
    "anyAtomicType", "anyURI", "base64Binary", "boolean", "date", "dateTime", "datetime", "dateTimeStamp", "decimal",
    "integer", "long", "int", "short", "byte", "nonNegativeInteger", "positiveInteger", "unsignedLong", "unsignedInt",
    "unsignedShort", "unsignedByte", "nonPositiveInteger", "negativeInteger", "double", "number", "duration",
    "dayTimeDuration", "yearMonthDuration", "float", "gDay", "gMonth", "gMonthDay", "gYear", "gYearMonth", "hexBinary",
    "QName", "string", "normalizedString", "token", "language", "Name", "NMTOKEN", "xml", "html", "json", "time", "any",
    "binary",
}  # fmt: skip
# prefixes that need not be declared (the initial context of RDFa 1.1)
PREFIXES = {"dc", "dcterms", "rdfs", "schema", "skos", "xsd"}
