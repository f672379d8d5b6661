package dev.brume.definitions;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.snakeyaml.engine.v2.api.Dump;
import org.snakeyaml.engine.v2.api.DumpSettings;
import org.snakeyaml.engine.v2.common.FlowStyle;

/**
 * Documents as YAML text, as people write it. Stateless.
 *
 * @since 0.1.0
 */
public final class YamlText {
    private static final int WIDTH = 100;

    private YamlText() {}

    /**
     * {@return a document as plain values}
     *
     * @param file a name for messages
     * @throws DefinitionsException if it is no YAML, or no mapping
     */
    public static Map<String, Object> read(String file, String text) {
        LocatedDocument document = LocatedDocument.read(file, text);
        if (!document.problems().isEmpty()) {
            throw new DefinitionsException(document.problems());
        }
        Map<String, Object> values = new LinkedHashMap<>();
        if (!(document.root().orElse(Map.of()) instanceof Map<?, ?> map)) {
            throw new DefinitionsException(
                    List.of(new DefinitionProblem(file, 1, 1, "", "expected a mapping of keys to values")));
        }
        map.forEach((key, value) -> values.put(String.valueOf(key), value));
        return values;
    }

    /** {@return a document in lines; reading it gives the same document} */
    public static String of(Map<String, Object> document) {
        DumpSettings settings = DumpSettings.builder()
                .setDefaultFlowStyle(FlowStyle.BLOCK)
                .setIndicatorIndent(2)
                .setIndentWithIndicator(true)
                .setWidth(WIDTH)
                .setSplitLines(false)
                .build();
        return new Dump(settings).dumpToString(document);
    }
}
