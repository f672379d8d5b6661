package dev.brume.cli;

import ch.qos.logback.classic.Level;
import ch.qos.logback.classic.LoggerContext;
import ch.qos.logback.classic.spi.Configurator;
import ch.qos.logback.classic.spi.ConfiguratorRank;
import ch.qos.logback.classic.spi.ILoggingEvent;
import ch.qos.logback.core.ConsoleAppender;
import ch.qos.logback.core.encoder.LayoutWrappingEncoder;
import ch.qos.logback.core.spi.ContextAwareBase;
import ch.qos.logback.core.status.NopStatusListener;
import java.nio.charset.StandardCharsets;
import org.slf4j.Logger;

/**
 * Sends warnings and errors to stderr. Said here rather than in a file, which every command would have to parse before it begins; a file of the user's
 * ({@code -Dlogback.configurationFile=FILE}) has precedence.
 */
@ConfiguratorRank(ConfiguratorRank.CUSTOM_HIGH_PRIORITY)
public final class LogSetup extends ContextAwareBase implements Configurator {
    private static final String PATTERN = "%d{HH:mm:ss.SSS} %-5level %logger{0} - %msg%n%ex{short}";

    /** For the service loader. */
    public LogSetup() {}

    @Override
    public ExecutionStatus configure(LoggerContext context) {
        if (System.getProperty("logback.configurationFile") != null) {
            return ExecutionStatus.INVOKE_NEXT_IF_ANY;
        }
        context.getStatusManager().add(new NopStatusListener());
        LogLayout layout = new LogLayout();
        layout.setContext(context);
        layout.setPattern(PATTERN);
        layout.start();
        LayoutWrappingEncoder<ILoggingEvent> encoder = new LayoutWrappingEncoder<>();
        encoder.setContext(context);
        encoder.setCharset(StandardCharsets.UTF_8);
        encoder.setLayout(layout);
        encoder.start();
        ConsoleAppender<ILoggingEvent> stderr = new ConsoleAppender<>();
        stderr.setContext(context);
        stderr.setName("STDERR");
        stderr.setTarget("System.err");
        stderr.setEncoder(encoder);
        stderr.start();
        context.getLogger("com.zaxxer.hikari").setLevel(Level.ERROR);
        ch.qos.logback.classic.Logger root = context.getLogger(Logger.ROOT_LOGGER_NAME);
        root.setLevel(Level.WARN);
        root.addAppender(stderr);
        return ExecutionStatus.DO_NOT_INVOKE_NEXT_IF_ANY;
    }
}
