-- One table of audio items, corrections as they stand, one log of edits, one table of jobs.
-- What people made is carried over; what was worked out from it is worked out anew.
ALTER TABLE `files` RENAME COLUMN `claims` TO `tags`;
--> statement-breakpoint
ALTER TABLE `studies` ADD `removed_at` integer;
--> statement-breakpoint
ALTER TABLE `studies` ADD `next_number` integer DEFAULT 1 NOT NULL;
--> statement-breakpoint
ALTER TABLE `studies` ADD `sequence` integer DEFAULT 0 NOT NULL;
--> statement-breakpoint
ALTER TABLE `studies` ADD `summary` text;
--> statement-breakpoint
ALTER TABLE `elements` ADD `removed_at` integer;
--> statement-breakpoint
UPDATE `studies` SET `next_number` = 1 + coalesce((SELECT max(`number`) FROM `tracks` WHERE `tracks`.`study_id` = `studies`.`id`), 0);
--> statement-breakpoint
CREATE TABLE `items` (
	`id` text PRIMARY KEY NOT NULL,
	`study_id` text NOT NULL,
	`role` text NOT NULL,
	`parent_id` text,
	`number` integer,
	`file_hash` text NOT NULL,
	`file_name` text NOT NULL,
	`note` text DEFAULT '' NOT NULL,
	`element_id` text,
	`coverage` text,
	`measured_offset` text,
	`offset_seconds` real,
	`removed_at` integer,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL,
	FOREIGN KEY (`study_id`) REFERENCES `studies`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`parent_id`) REFERENCES `items`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`file_hash`) REFERENCES `files`(`hash`) ON UPDATE no action ON DELETE no action,
	FOREIGN KEY (`element_id`) REFERENCES `elements`(`id`) ON UPDATE no action ON DELETE set null
);
--> statement-breakpoint
INSERT INTO `items` (`id`, `study_id`, `role`, `number`, `file_hash`, `file_name`, `note`, `coverage`, `created_at`)
SELECT `id`, `study_id`, `role`, `number`, `file_hash`, `file_name`, `note`, `coverage`, `created_at` FROM `tracks`;
--> statement-breakpoint
INSERT INTO `items` (`id`, `study_id`, `role`, `parent_id`, `file_hash`, `file_name`, `element_id`, `measured_offset`, `offset_seconds`, `created_at`)
SELECT `stems`.`id`, `tracks`.`study_id`, 'stem', `stems`.`track_id`, `stems`.`file_hash`, `stems`.`file_name`,
  CASE WHEN `stems`.`element_id` IN (SELECT `id` FROM `elements`) THEN `stems`.`element_id` END,
  `stems`.`measured_offset`, `stems`.`offset_seconds`, `stems`.`created_at`
FROM `stems` INNER JOIN `tracks` ON `tracks`.`id` = `stems`.`track_id`;
--> statement-breakpoint
CREATE INDEX `items_study` ON `items` (`study_id`);
--> statement-breakpoint
CREATE INDEX `items_parent` ON `items` (`parent_id`);
--> statement-breakpoint
CREATE INDEX `items_file` ON `items` (`file_hash`);
--> statement-breakpoint
CREATE TABLE `corrections` (
	`item_id` text NOT NULL,
	`subject` text NOT NULL,
	`value` text NOT NULL,
	PRIMARY KEY(`item_id`, `subject`),
	FOREIGN KEY (`item_id`) REFERENCES `items`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
INSERT INTO `corrections` (`item_id`, `subject`, `value`)
SELECT `place_id`, 'grid', `correction` FROM `grid_corrections`
WHERE `id` IN (SELECT max(`id`) FROM `grid_corrections` GROUP BY `place_id`) AND `place_id` IN (SELECT `id` FROM `items`);
--> statement-breakpoint
INSERT INTO `corrections` (`item_id`, `subject`, `value`)
SELECT `place_id`, `subject`, `correction` FROM `plan_corrections`
WHERE `id` IN (SELECT max(`id`) FROM `plan_corrections` GROUP BY `place_id`, `subject`) AND `place_id` IN (SELECT `id` FROM `items`);
--> statement-breakpoint
CREATE TABLE `edits` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`study_id` text NOT NULL,
	`label` text NOT NULL,
	`patch` text NOT NULL,
	`sequence` integer NOT NULL,
	`undone_sequence` integer,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL,
	FOREIGN KEY (`study_id`) REFERENCES `studies`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `edits_study` ON `edits` (`study_id`,`sequence`);
--> statement-breakpoint
-- The history of corrections becomes the log of edits, the newest 200 of each subject.
INSERT INTO `edits` (`study_id`, `label`, `patch`, `sequence`, `created_at`)
SELECT `items`.`study_id`,
  CASE `subject` WHEN 'grid' THEN 'Grid corrected' WHEN 'harmony' THEN 'Harmony edited' WHEN 'form' THEN 'Sections edited' ELSE 'Drums edited' END,
  json_array(json_object('path', json_array('items', `place_id`, `subject`), 'from', json(`before`), 'to', json(`correction`))),
  row_number() OVER (PARTITION BY `items`.`study_id` ORDER BY `all_corrections`.`created_at`, `rank`),
  `all_corrections`.`created_at`
FROM (
  SELECT *, coalesce(lag(`correction`) OVER (PARTITION BY `place_id`, `subject` ORDER BY `id`), '{}') AS `before`,
    row_number() OVER (PARTITION BY `place_id`, `subject` ORDER BY `id` DESC) AS `age`, `id` AS `rank`
  FROM (
    SELECT `id`, `place_id`, 'grid' AS `subject`, `correction`, `created_at` FROM `grid_corrections`
    UNION ALL
    SELECT `id`, `place_id`, `subject`, `correction`, `created_at` FROM `plan_corrections`
  )
) AS `all_corrections` INNER JOIN `items` ON `items`.`id` = `place_id`
WHERE `age` <= 200
ORDER BY `all_corrections`.`created_at`, `rank`;
--> statement-breakpoint
UPDATE `studies` SET `sequence` = coalesce((SELECT max(`sequence`) FROM `edits` WHERE `edits`.`study_id` = `studies`.`id`), 0);
--> statement-breakpoint
DROP TABLE `lined_up`;
--> statement-breakpoint
DROP TABLE `plans`;
--> statement-breakpoint
DROP TABLE `grid_corrections`;
--> statement-breakpoint
DROP TABLE `plan_corrections`;
--> statement-breakpoint
DROP TABLE `stems`;
--> statement-breakpoint
DROP TABLE `tracks`;
--> statement-breakpoint
DROP TABLE `curves`;
--> statement-breakpoint
DROP TABLE `jobs`;
--> statement-breakpoint
DELETE FROM `analyses`;
--> statement-breakpoint
CREATE TABLE `curves` (
	`file_hash` text NOT NULL,
	`name` text NOT NULL,
	`rate` real NOT NULL,
	`data` blob NOT NULL,
	PRIMARY KEY(`file_hash`, `name`),
	FOREIGN KEY (`file_hash`) REFERENCES `files`(`hash`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `plans` (
	`item_id` text PRIMARY KEY NOT NULL,
	`key` text NOT NULL,
	`result` text NOT NULL,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL,
	FOREIGN KEY (`item_id`) REFERENCES `items`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `alignments` (
	`item_id` text PRIMARY KEY NOT NULL,
	`key` text NOT NULL,
	`result` text NOT NULL,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL,
	FOREIGN KEY (`item_id`) REFERENCES `items`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `comparisons` (
	`item_id` text PRIMARY KEY NOT NULL,
	`key` text NOT NULL,
	`result` text NOT NULL,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL,
	FOREIGN KEY (`item_id`) REFERENCES `items`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `jobs` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`kind` text NOT NULL,
	`subject` text NOT NULL,
	`key` text NOT NULL,
	`state` text NOT NULL,
	`attempts` integer DEFAULT 0 NOT NULL,
	`refusal` text,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `jobs_subject` ON `jobs` (`kind`,`subject`);
--> statement-breakpoint
CREATE INDEX `jobs_state` ON `jobs` (`state`);
