CREATE TABLE `audit_log` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`at_ms` integer NOT NULL,
	`who` text NOT NULL,
	`what` text NOT NULL,
	`subject` text NOT NULL
);
--> statement-breakpoint
CREATE INDEX `audit_log_at` ON `audit_log` (`at_ms`);--> statement-breakpoint
CREATE TABLE `intake_tokens` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`token_hash` text NOT NULL,
	`job_id` text,
	`created_at_ms` integer NOT NULL,
	`used_at_ms` integer,
	`removed_at_ms` integer,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE UNIQUE INDEX `intake_tokens_token` ON `intake_tokens` (`token_hash`);--> statement-breakpoint
CREATE TABLE `people` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`role` text NOT NULL,
	`passphrase_hash` text NOT NULL,
	`created_at_ms` integer NOT NULL,
	`removed_at_ms` integer
);
--> statement-breakpoint
CREATE UNIQUE INDEX `people_name` ON `people` (lower("name")) WHERE removed_at_ms is null;--> statement-breakpoint
CREATE TABLE `sessions` (
	`id` text PRIMARY KEY NOT NULL,
	`person_id` text NOT NULL,
	`token_hash` text NOT NULL,
	`browser` text NOT NULL,
	`address` text NOT NULL,
	`created_at_ms` integer NOT NULL,
	`used_at_ms` integer NOT NULL,
	FOREIGN KEY (`person_id`) REFERENCES `people`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE UNIQUE INDEX `sessions_token` ON `sessions` (`token_hash`);--> statement-breakpoint
CREATE INDEX `sessions_person` ON `sessions` (`person_id`);--> statement-breakpoint
ALTER TABLE `deliveries` ADD `accepted_by` text;--> statement-breakpoint
ALTER TABLE `deliveries` ADD `approved_by` text;--> statement-breakpoint
ALTER TABLE `deliveries` ADD `approved_at_ms` integer;