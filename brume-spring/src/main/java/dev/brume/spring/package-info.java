/**
 * Brume in a Spring Boot application: handlers as beans, definitions in the application's properties, orders and guarded commits in Spring's
 * transactions.
 */
@NullMarked
package dev.brume.spring;

import org.jspecify.annotations.NullMarked;
