using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Falzkunst.Store.Migrations
{
    /// <inheritdoc />
    public partial class Accounts : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_Tools_StudioId",
                table: "Tools");

            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "RetiredAt",
                table: "Stocks",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "Chosen",
                table: "MaterialSettingRow",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "ArchivedAt",
                table: "Dockets",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "DeletedAt",
                table: "Dockets",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "IsOwner",
                table: "AspNetUsers",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            // Until now everybody could do everything; nobody loses what he could do.
            migrationBuilder.Sql("""UPDATE "AspNetUsers" SET "IsOwner" = true""");

            migrationBuilder.CreateTable(
                name: "EntryLinks",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "uuid", nullable: false),
                    StudioId = table.Column<Guid>(type: "uuid", nullable: false),
                    Hash = table.Column<string>(type: "text", nullable: false),
                    AccountId = table.Column<Guid>(type: "uuid", nullable: true),
                    IsOwner = table.Column<bool>(type: "boolean", nullable: false),
                    For = table.Column<string>(type: "text", nullable: false),
                    MadeById = table.Column<Guid>(type: "uuid", nullable: true),
                    EndsAt = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_EntryLinks", x => x.Id);
                    table.ForeignKey(
                        name: "FK_EntryLinks_AspNetUsers_AccountId",
                        column: x => x.AccountId,
                        principalTable: "AspNetUsers",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_EntryLinks_AspNetUsers_MadeById",
                        column: x => x.MadeById,
                        principalTable: "AspNetUsers",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "FK_EntryLinks_Studios_StudioId",
                        column: x => x.StudioId,
                        principalTable: "Studios",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Tools_StudioId_Key",
                table: "Tools",
                columns: new[] { "StudioId", "Key" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Tools_StudioId_Pen",
                table: "Tools",
                columns: new[] { "StudioId", "Pen" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_AspNetUsers_StudioId",
                table: "AspNetUsers",
                column: "StudioId");

            migrationBuilder.CreateIndex(
                name: "IX_EntryLinks_AccountId",
                table: "EntryLinks",
                column: "AccountId");

            migrationBuilder.CreateIndex(
                name: "IX_EntryLinks_Hash",
                table: "EntryLinks",
                column: "Hash",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_EntryLinks_MadeById",
                table: "EntryLinks",
                column: "MadeById");

            migrationBuilder.CreateIndex(
                name: "IX_EntryLinks_StudioId",
                table: "EntryLinks",
                column: "StudioId");

            migrationBuilder.AddForeignKey(
                name: "FK_AspNetUsers_Studios_StudioId",
                table: "AspNetUsers",
                column: "StudioId",
                principalTable: "Studios",
                principalColumn: "Id",
                onDelete: ReferentialAction.Cascade);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "FK_AspNetUsers_Studios_StudioId",
                table: "AspNetUsers");

            migrationBuilder.DropTable(
                name: "EntryLinks");

            migrationBuilder.DropIndex(
                name: "IX_Tools_StudioId_Key",
                table: "Tools");

            migrationBuilder.DropIndex(
                name: "IX_Tools_StudioId_Pen",
                table: "Tools");

            migrationBuilder.DropIndex(
                name: "IX_AspNetUsers_StudioId",
                table: "AspNetUsers");

            migrationBuilder.DropColumn(
                name: "RetiredAt",
                table: "Stocks");

            migrationBuilder.DropColumn(
                name: "Chosen",
                table: "MaterialSettingRow");

            migrationBuilder.DropColumn(
                name: "ArchivedAt",
                table: "Dockets");

            migrationBuilder.DropColumn(
                name: "DeletedAt",
                table: "Dockets");

            migrationBuilder.DropColumn(
                name: "IsOwner",
                table: "AspNetUsers");

            migrationBuilder.CreateIndex(
                name: "IX_Tools_StudioId",
                table: "Tools",
                column: "StudioId");
        }
    }
}
