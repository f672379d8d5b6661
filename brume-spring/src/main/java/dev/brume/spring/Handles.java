package dev.brume.spring;

import java.lang.annotation.Documented;
import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/**
 * Marks what does the work of a job: a method of a bean, a bean that is a {@link dev.brume.Handler}, or the method that makes such a bean.
 *
 * <p>A method may take a {@link dev.brume.Run}, a payload, both, or neither: a {@code String} is given the payload's text, any other type what that says as
 * JSON. What it returns is the run's result, as text or as JSON.
 *
 * <p>When the job runs stands in one place: here, under {@code brume.jobs} in the application's properties, or in a definition file. A job that is defined
 * nowhere is one that can be ordered. All texts may hold placeholders of properties, such as {@code ${harbour.zone}}.
 *
 * @since 0.1.0
 */
@Documented
@Target({ElementType.METHOD, ElementType.TYPE})
@Retention(RetentionPolicy.RUNTIME)
public @interface Handles {
    /** The job, {@code name} or {@code namespace/name}. */
    String value();

    /** When it runs, as a cron expression. */
    String cron() default "";

    /** How often it runs, such as {@code 90s}. */
    String every() default "";

    /** The IANA zone of the cron expression; {@code brume.zone} unless it is set. */
    String zone() default "";

    /** How long one attempt may take, such as {@code 5m}. */
    String timeLimit() default "";

    /** What becomes of an occurrence while earlier runs are unfinished: {@code skip}, {@code wait} or {@code supersede}. */
    String ifBusy() default "";

    /** What becomes of what was missed: {@code latest}, {@code each} or {@code none}. */
    String ifMissed() default "";

    /** How long to wait before each further attempt, such as {@code {"10s", "1m"}}; by default there is none. */
    String[] waits() default {};

    /** Whose workers run it. */
    String lane() default "";

    /** What each run is given. */
    String payload() default "";
}
