<?xml version="1.0" encoding="utf-8"?>
<!DOCTYPE TS>
<TS version="2.1" language="en" sourcelanguage="en">
<context>
    <name>Words</name>
    <message numerus="yes">
        <source>%n parts</source>
        <translation>
            <numerusform>%n part</numerusform>
            <numerusform>%n parts</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yokai::Desk</name>
    <message numerus="yes">
        <source>Straightened by %n marks; the worst lies %1 off.</source>
        <translation>
            <numerusform>Straightened by %n mark; it lies %1 off.</numerusform>
            <numerusform>Straightened by %n marks; the worst lies %1 off.</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n pieces made of it.</source>
        <translation>
            <numerusform>%n piece made of it.</numerusform>
            <numerusform>%n pieces made of it.</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n corners</source>
        <translation>
            <numerusform>%n corner</numerusform>
            <numerusform>%n corners</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n crosses</source>
        <translation>
            <numerusform>%n cross</numerusform>
            <numerusform>%n crosses</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n brackets</source>
        <translation>
            <numerusform>%n bracket</numerusform>
            <numerusform>%n brackets</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n dots</source>
        <translation>
            <numerusform>%n dot</numerusform>
            <numerusform>%n dots</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n copies</source>
        <translation>
            <numerusform>%n copy</numerusform>
            <numerusform>%n copies</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n engraved copies</source>
        <translation>
            <numerusform>%n engraved copy</numerusform>
            <numerusform>%n engraved copies</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n marks</source>
        <translation>
            <numerusform>%n mark</numerusform>
            <numerusform>%n marks</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%1, %n outlines</source>
        <translation>
            <numerusform>%1, %n outline</numerusform>
            <numerusform>%1, %n outlines</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%1, %n paths</source>
        <translation>
            <numerusform>%1, %n path</numerusform>
            <numerusform>%1, %n paths</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n parts</source>
        <translation>
            <numerusform>%n part</numerusform>
            <numerusform>%n parts</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n openings</source>
        <translation>
            <numerusform>%n opening</numerusform>
            <numerusform>%n openings</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n crumbs</source>
        <translation>
            <numerusform>%n crumb</numerusform>
            <numerusform>%n crumbs</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n layers</source>
        <translation>
            <numerusform>%n layer</numerusform>
            <numerusform>%n layers</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>add %n layers</source>
        <translation>
            <numerusform>add %n layer</numerusform>
            <numerusform>add %n layers</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n outlines, %1</source>
        <translation>
            <numerusform>%n outline, %1</numerusform>
            <numerusform>%n outlines, %1</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n lines</source>
        <translation>
            <numerusform>%n line</numerusform>
            <numerusform>%n lines</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n pieces</source>
        <translation>
            <numerusform>%n piece</numerusform>
            <numerusform>%n pieces</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n edits</source>
        <translation>
            <numerusform>%n edit</numerusform>
            <numerusform>%n edits</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n nodes</source>
        <translation>
            <numerusform>%n node</numerusform>
            <numerusform>%n nodes</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n findings</source>
        <translation>
            <numerusform>%n finding</numerusform>
            <numerusform>%n findings</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n passes</source>
        <translation>
            <numerusform>%n pass</numerusform>
            <numerusform>%n passes</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n features of the picture</source>
        <translation>
            <numerusform>%n feature of the picture</numerusform>
            <numerusform>%n features of the picture</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n marks, %1</source>
        <translation>
            <numerusform>%n mark, %1</numerusform>
            <numerusform>%n marks, %1</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yokai::Files</name>
    <message numerus="yes">
        <source>%1; and %n more</source>
        <translation>
            <numerusform>%1; and %n more</numerusform>
            <numerusform>%1; and %n more</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>add %n pictures</source>
        <translation>
            <numerusform>add %n picture</numerusform>
            <numerusform>add %n pictures</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yokai::HandOffPanel</name>
    <message numerus="yes">
        <source>Write %n files</source>
        <translation>
            <numerusform>Write %n file</numerusform>
            <numerusform>Write %n files</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%1 is there already.</source>
        <translation>
            <numerusform>%1 is there already.</numerusform>
            <numerusform>%1 is there already.</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yokai::HeaderBar</name>
    <message numerus="yes">
        <source>▲ %n findings</source>
        <translation>
            <numerusform>▲ %n finding</numerusform>
            <numerusform>▲ %n findings</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yokai::StatusStrip</name>
    <message numerus="yes">
        <source>%n nodes</source>
        <translation>
            <numerusform>%n node</numerusform>
            <numerusform>%n nodes</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>Printing</name>
    <message numerus="yes">
        <source>%n sheets sent to %1</source>
        <translation>
            <numerusform>%n sheet sent to %1</numerusform>
            <numerusform>%n sheets sent to %1</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yokai::SheetPanel</name>
    <message numerus="yes">
        <source>%n copies were placed by hand; they stay put.</source>
        <translation>
            <numerusform>%n copy was placed by hand; it stays put.</numerusform>
            <numerusform>%n copies were placed by hand; they stay put.</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n copies selected.</source>
        <translation>
            <numerusform>%n copy selected.</numerusform>
            <numerusform>%n copies selected.</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>yokai::Machining</name>
    <message numerus="yes">
        <source>Cut: %n paths in %1.</source>
        <translation>
            <numerusform>Cut: %n path in %1.</numerusform>
            <numerusform>Cut: %n paths in %1.</numerusform>
        </translation>
    </message>
</context>
</TS>
