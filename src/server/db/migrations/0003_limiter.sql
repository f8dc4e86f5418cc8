ALTER TABLE `deliveries` ADD `reduction` text;--> statement-breakpoint
ALTER TABLE `treatments` ADD `predicted` text;