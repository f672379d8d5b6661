package dev.brume.testkit;

import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/**
 * Says at what instant the {@link VirtualBrume} of a test, or of all tests of a class, begins.
 *
 * @since 0.1.0
 */
@Target({ElementType.METHOD, ElementType.TYPE})
@Retention(RetentionPolicy.RUNTIME)
public @interface BeginningAt {
    /** An instant such as {@code 2026-03-29T00:00:00Z}. */
    String value();

    /** Whether one-offs are left waiting. */
    boolean collectOneOffs() default false;
}
