package dev.brume.cli;

import ch.qos.logback.classic.PatternLayout;
import ch.qos.logback.classic.spi.ILoggingEvent;
import dev.brume.internal.text.Texts;

/** Lays out a log line, its exception included, without the passwords of URLs that drivers put into their messages. */
public final class LogLayout extends PatternLayout {
    @Override
    public String doLayout(ILoggingEvent event) {
        return Texts.withoutPasswords(super.doLayout(event));
    }
}
