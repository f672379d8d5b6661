package dev.brume.cli;

import dev.brume.definitions.JsonText;
import java.util.Map;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Spec;

/** Says what came of an order: a sentence for people, or one object for programs. */
final class OrderReport {
    @Mixin
    private FormatOption format;

    @Spec(Spec.Target.MIXEE)
    private CommandSpec spec;

    /** Says what was done. */
    int done(String sentence, Object... members) {
        return say(true, sentence, members);
    }

    /** Says why nothing was done. */
    int notDone(String sentence, Object... members) {
        return say(false, sentence, members);
    }

    /** Says something on the way, to people alone. */
    void meanwhile(String sentence) {
        if (!format.json()) {
            spec.commandLine().getOut().println(sentence);
            spec.commandLine().getOut().flush();
        }
    }

    private int say(boolean done, String sentence, Object... members) {
        if (format.json()) {
            Map<String, Object> all = JsonOut.object("done", done, "message", sentence);
            all.putAll(JsonOut.object(members));
            spec.commandLine().getOut().println(JsonText.pretty(all));
        } else if (done) {
            spec.commandLine().getOut().println(sentence);
        } else {
            spec.commandLine().getErr().println("brume: " + sentence);
        }
        return done ? ExitCode.OK : ExitCode.NOT_FOUND;
    }
}
