using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Falzkunst.Store.Migrations
{
    /// <inheritdoc />
    public partial class Together : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "With",
                table: "Layouts",
                type: "jsonb",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "LaidWithId",
                table: "Dockets",
                type: "uuid",
                nullable: true);

            migrationBuilder.CreateIndex(
                name: "IX_Dockets_LaidWithId",
                table: "Dockets",
                column: "LaidWithId");

            migrationBuilder.AddForeignKey(
                name: "FK_Dockets_Dockets_LaidWithId",
                table: "Dockets",
                column: "LaidWithId",
                principalTable: "Dockets",
                principalColumn: "Id",
                onDelete: ReferentialAction.SetNull);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "FK_Dockets_Dockets_LaidWithId",
                table: "Dockets");

            migrationBuilder.DropIndex(
                name: "IX_Dockets_LaidWithId",
                table: "Dockets");

            migrationBuilder.DropColumn(
                name: "With",
                table: "Layouts");

            migrationBuilder.DropColumn(
                name: "LaidWithId",
                table: "Dockets");
        }
    }
}
