using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Falzkunst.Store.Migrations
{
    /// <inheritdoc />
    public partial class ByContent : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_SourceFiles_DocketId",
                table: "SourceFiles");

            migrationBuilder.DropIndex(
                name: "IX_Revisions_DocketId",
                table: "Revisions");

            migrationBuilder.AddColumn<string>(
                name: "Content",
                table: "SourceFiles",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<int>(
                name: "Size",
                table: "SourceFiles",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<Guid>(
                name: "BaseId",
                table: "Revisions",
                type: "uuid",
                nullable: true);

            migrationBuilder.AddColumn<byte[]>(
                name: "Edit",
                table: "Revisions",
                type: "bytea",
                nullable: false,
                defaultValue: new byte[0]);

            migrationBuilder.AddColumn<string>(
                name: "Gesture",
                table: "Revisions",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "Kind",
                table: "Revisions",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<int>(
                name: "Lines",
                table: "Revisions",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<int>(
                name: "Pictures",
                table: "Revisions",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<int>(
                name: "Pieces",
                table: "Revisions",
                type: "integer",
                nullable: false,
                defaultValue: -1);

            migrationBuilder.AddColumn<int>(
                name: "Plies",
                table: "Revisions",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<byte[]>(
                name: "Seal",
                table: "Revisions",
                type: "bytea",
                nullable: false,
                defaultValue: new byte[0]);

            migrationBuilder.CreateTable(
                name: "Blobs",
                columns: table => new
                {
                    StudioId = table.Column<Guid>(type: "uuid", nullable: false),
                    Hash = table.Column<string>(type: "text", nullable: false),
                    Bytes = table.Column<byte[]>(type: "bytea", nullable: false),
                    At = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Blobs", x => new { x.StudioId, x.Hash });
                    table.ForeignKey(
                        name: "FK_Blobs_Studios_StudioId",
                        column: x => x.StudioId,
                        principalTable: "Studios",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "BlobUses",
                columns: table => new
                {
                    DocketId = table.Column<Guid>(type: "uuid", nullable: false),
                    Hash = table.Column<string>(type: "text", nullable: false),
                    StudioId = table.Column<Guid>(type: "uuid", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_BlobUses", x => new { x.DocketId, x.Hash });
                    table.ForeignKey(
                        name: "FK_BlobUses_Blobs_StudioId_Hash",
                        columns: x => new { x.StudioId, x.Hash },
                        principalTable: "Blobs",
                        principalColumns: new[] { "StudioId", "Hash" },
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "FK_BlobUses_Dockets_DocketId",
                        column: x => x.DocketId,
                        principalTable: "Dockets",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_SourceFiles_DocketId_At",
                table: "SourceFiles",
                columns: new[] { "DocketId", "At" });

            migrationBuilder.CreateIndex(
                name: "IX_Runs_LayoutId_State",
                table: "Runs",
                columns: new[] { "LayoutId", "State" });

            migrationBuilder.CreateIndex(
                name: "IX_Runs_MachineId_State",
                table: "Runs",
                columns: new[] { "MachineId", "State" });

            migrationBuilder.CreateIndex(
                name: "IX_Revisions_DocketId_At",
                table: "Revisions",
                columns: new[] { "DocketId", "At" });

            migrationBuilder.CreateIndex(
                name: "IX_Revisions_ParentId",
                table: "Revisions",
                column: "ParentId");

            migrationBuilder.CreateIndex(
                name: "IX_BlobUses_StudioId_Hash",
                table: "BlobUses",
                columns: new[] { "StudioId", "Hash" });

            // Files that were brought are blobs from now on; the same file in two dockets is one.
            migrationBuilder.Sql("""
                INSERT INTO "Blobs" ("StudioId", "Hash", "Bytes", "At")
                    SELECT DISTINCT ON ("StudioId", encode(sha256("Bytes"), 'hex')) "StudioId", encode(sha256("Bytes"), 'hex'), "Bytes", now()
                    FROM "SourceFiles";
                UPDATE "SourceFiles" SET "Content" = encode(sha256("Bytes"), 'hex'), "Size" = length("Bytes");
                INSERT INTO "BlobUses" ("DocketId", "StudioId", "Hash") SELECT DISTINCT "DocketId", "StudioId", "Content" FROM "SourceFiles";
                """);
            migrationBuilder.DropColumn(
                name: "Bytes",
                table: "SourceFiles");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<byte[]>(
                name: "Bytes",
                table: "SourceFiles",
                type: "bytea",
                nullable: false,
                defaultValue: new byte[0]);

            migrationBuilder.Sql("""
                UPDATE "SourceFiles" f SET "Bytes" = b."Bytes" FROM "Blobs" b WHERE b."StudioId" = f."StudioId" AND b."Hash" = f."Content"
                """);

            migrationBuilder.DropTable(
                name: "BlobUses");

            migrationBuilder.DropTable(
                name: "Blobs");

            migrationBuilder.DropIndex(
                name: "IX_SourceFiles_DocketId_At",
                table: "SourceFiles");

            migrationBuilder.DropIndex(
                name: "IX_Runs_LayoutId_State",
                table: "Runs");

            migrationBuilder.DropIndex(
                name: "IX_Runs_MachineId_State",
                table: "Runs");

            migrationBuilder.DropIndex(
                name: "IX_Revisions_DocketId_At",
                table: "Revisions");

            migrationBuilder.DropIndex(
                name: "IX_Revisions_ParentId",
                table: "Revisions");

            migrationBuilder.DropColumn(
                name: "Content",
                table: "SourceFiles");

            migrationBuilder.DropColumn(
                name: "Size",
                table: "SourceFiles");

            migrationBuilder.DropColumn(
                name: "BaseId",
                table: "Revisions");

            migrationBuilder.DropColumn(
                name: "Edit",
                table: "Revisions");

            migrationBuilder.DropColumn(
                name: "Gesture",
                table: "Revisions");

            migrationBuilder.DropColumn(
                name: "Kind",
                table: "Revisions");

            migrationBuilder.DropColumn(
                name: "Lines",
                table: "Revisions");

            migrationBuilder.DropColumn(
                name: "Pictures",
                table: "Revisions");

            migrationBuilder.DropColumn(
                name: "Pieces",
                table: "Revisions");

            migrationBuilder.DropColumn(
                name: "Plies",
                table: "Revisions");

            migrationBuilder.DropColumn(
                name: "Seal",
                table: "Revisions");

            migrationBuilder.CreateIndex(
                name: "IX_SourceFiles_DocketId",
                table: "SourceFiles",
                column: "DocketId");

            migrationBuilder.CreateIndex(
                name: "IX_Revisions_DocketId",
                table: "Revisions",
                column: "DocketId");
        }
    }
}
