package dev.brume.http.internal.console;

import dev.brume.http.internal.page.TallyReport;
import dev.brume.http.internal.web.Reply;
import gg.jte.ContentType;
import gg.jte.TemplateEngine;
import gg.jte.output.StringOutput;
import java.util.Map;

/** Makes pages of templates, which are classes by the time they are used. Stateless. */
final class Html {
    private static final TemplateEngine ENGINE = engine();

    private Html() {}

    private static TemplateEngine engine() {
        TemplateEngine engine = TemplateEngine.createPrecompiled(
                null, ContentType.Html, Html.class.getClassLoader(), TallyReport.class.getPackageName());
        engine.setTrimControlStructures(true);
        return engine;
    }

    static Reply page(int status, String template, Map<String, Object> params) {
        StringOutput page = new StringOutput(32 * 1024);
        ENGINE.render(template + ".jte", params, page);
        return Reply.of(status, "text/html", page.toString());
    }

    static Reply page(String template, Map<String, Object> params) {
        return page(200, template, params);
    }
}
